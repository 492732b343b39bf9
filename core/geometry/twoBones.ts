import { crossProduct, angleBetween, vectorBetween, type Vector2d } from './vectors2d'

/** How two bones of a limb turn. Radians, in the space of the places. */
export interface TwoBoneTurn {
  upper: number
  lower: number
}

/**
 * Turns of two bones that bring the end of the second to a place: the upper about its root, the lower, as it is seen, about
 * the joint between them.
 *
 * Law of cosines (Euclid, Elements II.12 and 13): the angle at the root between the upper bone and the way to the target
 * is acos((a^2 + d^2 - b^2) / (2 a d)). A target out of reach is gone towards as far as the bones reach.
 *
 * @param root, joint, end  where the limb is
 * @param target            where its end is to be
 * @param side              of the way from root to end on which the joint is to lie, 1 where that way goes off to growing angles
 *                          from the upper bone; by itself where it lies now
 */
export function twoBoneTurn(
  root: readonly [number, number],
  joint: readonly [number, number],
  end: readonly [number, number],
  target: readonly [number, number],
  side: 1 | -1 = sideOf(root, joint, end),
): TwoBoneTurn {
  const [ux, uy] = [joint[0] - root[0], joint[1] - root[1]]
  const [lx, ly] = [end[0] - joint[0], end[1] - joint[1]]
  const [upper, lower] = [Math.hypot(ux, uy), Math.hypot(lx, ly)]
  const [tx, ty] = [target[0] - root[0], target[1] - root[1]]
  const wanted = Math.hypot(tx, ty)
  const distance = Math.min(upper + lower, Math.max(Math.abs(upper - lower), wanted))
  const towards = wanted > 0 ? Math.atan2(ty, tx) : Math.atan2(end[1] - root[1], end[0] - root[0])
  const cosine = (upper * upper + distance * distance - lower * lower) / (2 * upper * distance || 1)
  const upperAngle = towards - side * Math.acos(Math.min(1, Math.max(-1, cosine)))
  const [jx, jy] = [upper * Math.cos(upperAngle), upper * Math.sin(upperAngle)]
  const [ex, ey] = [distance * Math.cos(towards), distance * Math.sin(towards)]
  return { upper: angleBetween([ux, uy], [jx, jy]), lower: angleBetween([lx, ly], [ex - jx, ey - jy]) }
}

/** Straight limbs bend like those whose joint lies to the left of the way to their end. */
const sideOf = (root: Vector2d, joint: Vector2d, end: Vector2d) =>
  crossProduct(vectorBetween(root, joint), vectorBetween(root, end)) < 0 ? -1 : 1
