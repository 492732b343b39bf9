/** Times round a frame, nearest first on both sides. */
export interface OnionTimes {
  before: number[]
  after: number[]
}

/**
 * Times at which outlines are shown beside that of the present frame: of the keys nearest to it, or of the frames.
 *
 * @param times  of keys, in any order; null: every frame of the range counts
 * @param count  how many to each side
 */
export function onionTimes(
  times: readonly number[] | null,
  frame: number,
  count: number,
  [first, last]: readonly [number, number],
): OnionTimes {
  const steps = Array.from({ length: count }, (_, i) => i + 1)
  const all = times ?? steps.flatMap((step) => [frame - step, frame + step]).filter((t) => t >= first && t <= last)
  const unique = [...new Set(all)]
  return {
    before: unique.filter((time) => time < frame).sort((a, b) => b - a).slice(0, count), // prettier-ignore
    after: unique.filter((time) => time > frame).sort((a, b) => a - b).slice(0, count), // prettier-ignore
  }
}
