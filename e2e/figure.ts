import { signedArea } from '@tender-lasso/core/geometry'
import type { Artist, Truth } from './artist'

/** Where the joints of the walking figure are on a frame, read off the outlines that the picture was made from. */
export function jointPlaces(known: Truth, frame: number): Record<string, [number, number]> {
  const head = outlineOf(known, 'head', frame)
  const [left, right, top, bottom] = [
    Math.min(...axis(head, 0)),
    Math.max(...axis(head, 0)),
    Math.min(...axis(head, 1)),
    Math.max(...axis(head, 1)),
  ]
  const places: Record<string, [number, number]> = {
    crown: [(left + right) / 2, top],
    neck: [(left + right) / 2, bottom],
    hips: limbJoint(known, 'near-leg', 0, frame),
  }
  for (const side of ['near', 'far']) {
    const arm = [0, 1, 2].map((k) => limbJoint(known, `${side}-arm`, k, frame))
    const [elbow, wrist] = [arm[1]!, arm[2]!]
    const length = Math.hypot(wrist[0] - elbow[0], wrist[1] - elbow[1])
    const tip = [0, 1].map((k) => wrist[k]! + ((wrist[k]! - elbow[k]!) / length) * 12) as [number, number]
    const names = [`${side} shoulder`, `${side} elbow`, `${side} wrist`, `${side} fingertips`]
    names.forEach((name, k) => (places[name] = arm[k] ?? tip))
    const leg = [`${side} hip`, `${side} knee`, `${side} ankle`, `${side} toes`]
    leg.forEach((name, k) => (places[name] = limbJoint(known, `${side}-leg`, k, frame)))
  }
  return places
}

export const outlineOf = (known: Truth, id: string, frame: number) =>
  known.parts.find((part) => part.id === id)!.outlines[frame - 1001]!

/** One coordinate of places, x0, y0, x1, y1 ... */
export const axis = (places: ArrayLike<number>, k: number) => Array.from(places).filter((_, i) => i % 2 === k)

/** Middle of the box round places. */
export function middleOf(places: ArrayLike<number>): [number, number] {
  return [0, 1].map((k) => (Math.min(...axis(places, k)) + Math.max(...axis(places, k))) / 2) as [number, number]
}

/** Vertices of the truth's outline between two of the points that it is drawn through. */
const PER_POINT = 8
/** Numbers from one such point to the next. */
export const MAKER_STEP = 2 * PER_POINT

/**
 * An outline by the pen, through the points that the truth's is drawn through.
 *
 * @param zoom  the largest that leaves all of it inside the viewer: of the coat, if nothing is given
 */
export async function drawThrough(artist: Artist, outline: readonly number[], zoom = 1.4) {
  await artist.key('p')
  await artist.zoomTo(...middleOf(outline), zoom)
  const count = outline.length / MAKER_STEP
  for (let i = 0; i < count; i++) {
    const [x, y] = [outline[MAKER_STEP * i]!, outline[MAKER_STEP * i + 1]!]
    const [u, v] = tangentThrough(outline, i)
    await artist.drag(x, y, x + u, y + v)
  }
  await artist.key('Enter')
  await artist.fit()
}

/** The tangent by which a curve through the points that an outline is drawn through leaves one of them: a sixth of the way between its neighbours. */
export function tangentThrough(outline: readonly number[], point: number): [number, number] {
  const count = outline.length / MAKER_STEP
  const [before, after] = [point - 1, point + 1].map((i) => MAKER_STEP * ((i + count) % count)) as [number, number]
  return [(outline[after]! - outline[before]!) / 6, (outline[after + 1]! - outline[before + 1]!) / 6]
}

/**
 * The edge of one bone of a limb, from joint k to the next: along the limb's own sides and its ends, round about the joints
 * between bones.
 */
export function boneEdge(known: Truth, id: string, k: number, frame: number): number[] {
  const outline = outlineOf(known, id, frame)
  const vertices = outline.length / 2
  const count = vertices / PER_POINT
  const joints = (count - 2) / 2
  const run = (from: number, to: number) =>
    Array.from({ length: (to - from) * PER_POINT + 1 }, (_, i) => {
      const at = (from * PER_POINT + i) % vertices
      return [outline[2 * at]!, outline[2 * at + 1]!] as const
    })
  const turn = (joint: number, isEnd: boolean) => {
    const [cx, cy] = limbJoint(known, id, joint, frame)
    const [left, right] = sidesAt(known, id, joint, frame)
    const [x, y] = isEnd ? [left[0] - cx, left[1] - cy] : [right[0] - cx, right[1] - cy]
    return Array.from({ length: 9 }, (_, i) => {
      const [c, s] = [Math.cos((Math.PI * i) / 8), Math.sin((Math.PI * i) / 8)]
      return [cx + c * x - s * y, cy + s * x + c * y] as const
    })
  }
  const end = k + 1 === joints - 1 ? run(joints, joints + 2) : turn(k + 1, true)
  const start = k === 0 ? run(count - 1, count + 1) : turn(k, false)
  return [...run(1 + k, 2 + k), ...end, ...run(count - 2 - k, count - 1 - k), ...start].flat()
}

/** A limb's outline runs round a cap, down one side, round the other cap, up the other side: a joint is between its sides. */
export function limbJoint(known: Truth, id: string, k: number, frame: number): [number, number] {
  const [a, b] = sidesAt(known, id, k, frame)
  return [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2]
}

/** The two points of a limb's sides beside joint k. */
export function sidesAt(known: Truth, id: string, k: number, frame: number) {
  const outline = outlineOf(known, id, frame)
  const count = outline.length / 2 / PER_POINT
  const at = (i: number) => [outline[2 * i * PER_POINT]!, outline[2 * i * PER_POINT + 1]!] as const
  return [at(1 + k), at(count - 1 - k)] as const
}

/** Left and right end of a convex outline at a height. */
export function acrossAt(outline: readonly number[], y: number): [number, number] {
  const crossings: number[] = []
  for (let i = 0; i < outline.length; i += 2) {
    const [ax, ay] = [outline[i]!, outline[i + 1]!]
    const [bx, by] = [outline[(i + 2) % outline.length]!, outline[(i + 3) % outline.length]!]
    if (ay > y !== by > y) crossings.push(ax + ((y - ay) / (by - ay)) * (bx - ax))
  }
  return [Math.min(...crossings), Math.max(...crossings)]
}

/** Corners of the felt below the pinwheel that turns before it. */
export const hatBelowThePinwheel = (known: Truth, frame: number) => hatBelow(outlineOf(known, 'hat', frame), 0.75)

/** Corners round the band and the brim, with a little of the ground beside their ends: these alone tell where the hat is from left to right. */
export const hatBandAndBrim = (known: Truth, frame: number) =>
  outset(hatBelow(outlineOf(known, 'hat', frame), 0.35), 2.5)

type Place = [number, number]

/** Corners of a hat from the ends of its brim up to a share of the height of its sides. */
function hatBelow(hat: readonly number[], share: number): Place[] {
  const corner = (i: number): Place => [hat[2 * i]!, hat[2 * i + 1]!]
  return [
    between(corner(2), corner(3), share),
    between(corner(7), corner(6), share),
    ...[7, 8, 9, 10, 11, 0, 1, 2].map(corner),
  ]
}

/** Points of the coat from the height of its knees down: below the board the cloth swings wider. */
export const HEM_POINTS = [5, 6, 7, 8, 9, 10] as const

/** Corners round the hem of the coat below the board. */
export function coatHem(known: Truth, frame: number): Place[] {
  const point = drawnPoint(outlineOf(known, 'coat', frame))
  return [between(point(6), point(5), 0.4), ...[6, 7, 8, 9].map(point), between(point(9), point(10), 0.4)]
}

/** Corners round the coat down to where it begins to swing. */
export function coatAbove(known: Truth, frame: number): Place[] {
  const point = drawnPoint(outlineOf(known, 'coat', frame))
  const sides = [between(point(4), point(5), 0.3), between(point(11), point(10), 0.3)]
  return [...[0, 1, 2, 3, 4].map(point), ...sides, ...[11, 12, 13].map(point)]
}

const drawnPoint =
  (outline: readonly number[]) =>
  (i: number): Place => [outline[MAKER_STEP * i]!, outline[MAKER_STEP * i + 1]!]

const between = (a: Place, b: Place, share: number): Place => [
  a[0] * (1 - share) + b[0] * share,
  a[1] * (1 - share) + b[1] * share,
]

/** A closed polygon whose sides are moved outwards, pixels. */
function outset(corners: readonly Place[], by: number): Place[] {
  const count = corners.length
  const at = (i: number) => corners[(i + count) % count]!
  const outwards = signedArea(corners.flat()) > 0 ? by : -by
  const moved = (i: number): [Place, Place] => {
    const [a, b] = [at(i), at(i + 1)]
    const long = Math.hypot(b[0] - a[0], b[1] - a[1])
    const [x, y] = [((b[1] - a[1]) / long) * outwards, ((a[0] - b[0]) / long) * outwards]
    return [[a[0] + x, a[1] + y], [b[0] + x, b[1] + y]] // prettier-ignore
  }
  return corners.map((_, i) => crossing(...moved(i - 1), ...moved(i)))
}

/** Where the lines through two pairs of places cross. */
function crossing(a: Place, b: Place, c: Place, d: Place): Place {
  const [x, y] = [b[0] - a[0], b[1] - a[1]]
  const [u, v] = [d[0] - c[0], d[1] - c[1]]
  const t = ((c[0] - a[0]) * v - (c[1] - a[1]) * u) / (x * v - y * u)
  return [a[0] + t * x, a[1] + t * y]
}
