import { fractalNoise } from './noise'
import type { Colour, Tint } from './texture'

/** Metres of cloth from the beginning of one bone of a leg to that of the next: more than either is long. */
export const ALONG_A_BONE = 0.47

/** Where each bone of a limb begins, and its direction. */
export const bonesOf = (joints: readonly [number, number][]) =>
  joints.slice(1).map(([toX, toY], k) => {
    const from = joints[k]!
    const length = Math.hypot(toX - from[0], toY - from[1])
    return { from, dx: (toX - from[0]) / length, dy: (toY - from[1]) / length }
  })

/** Bone of a limb that a point belongs to: the one that is nearest, number k from joint k to the next. */
export function nearestBone(joints: readonly [number, number][], x: number, y: number): number {
  let nearest = 0
  let least = Infinity
  for (let k = 0; k + 1 < joints.length; k++) {
    const [ax, ay] = joints[k]!
    const [bx, by] = joints[k + 1]!
    const [dx, dy] = [bx - ax, by - ay]
    const share = Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy)))
    const square = (x - ax - share * dx) ** 2 + (y - ay - share * dy) ** 2
    if (square < least) [least, nearest] = [square, k]
  }
  return nearest
}

/** Tweed with broad checks and two patches. Metres along the leg and across it, so that the cloth turns with each bone. */
export function trouserCloth(along: number, across: number, out: Colour) {
  const weave = 0.7 + 0.6 * fractalNoise(along * 55, across * 55, 141)
  const worn = 0.65 + 0.7 * fractalNoise(along * 13, across * 13, 143)
  const dark = (((along * 11) % 1) + 1) % 1 < 0.45 !== (((across * 14) % 1) + 1) % 1 < 0.5
  let colour: Tint = dark ? TROUSERS.ground : TROUSERS.check
  if (isPatch(along - 0.2, across - 0.022) || isPatch(along - 0.62, across + 0.02)) colour = TROUSERS.patch
  const lit = shadowOfTheCoat(along)
  for (let i = 0; i < 3; i++) out[i] = colour[i]! * weave * worn * lit
}

/** Light that the coat lets through: little below the hem, all of it half way down the shin. */
function shadowOfTheCoat(along: number): number {
  const share = Math.min(1, Math.max(0, (along - ALONG_A_BONE - 0.02) / 0.16))
  return 0.3 + 0.7 * share * share * (3 - 2 * share)
}

const isPatch = (along: number, across: number) => Math.abs(along) < 0.034 && Math.abs(across) < 0.026

const TROUSERS = {
  ground: [0.026, 0.024, 0.023],
  check: [0.058, 0.05, 0.042],
  patch: [0.12, 0.06, 0.03],
} as const

/** Wood of the stilts, with bands of cord round it. */
export function stiltWood(along: number, across: number, out: Colour) {
  const grain = 0.75 + 0.5 * fractalNoise(along * 9, across * 70, 145)
  const cord = (((along * 10) % 1) + 1) % 1 < 0.2
  out[0] = (cord ? 0.2 : 0.11) * grain
  out[1] = (cord ? 0.16 : 0.07) * grain
  out[2] = (cord ? 0.1 : 0.035) * grain
}
