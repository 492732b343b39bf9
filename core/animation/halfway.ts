/**
 * The frame in the middle of the longest stretch without a key: where the next correction tells most. The ends of the
 * range end a stretch like a key. Of equally long ones the first.
 *
 * @param times  of keys, in any order
 * @returns null where no frame is left between two keys
 */
export function halfwayFrame(times: readonly number[], first: number, last: number): number | null {
  const ends = [first, ...times.filter((time) => time > first && time < last).sort((a, b) => a - b), last]
  let longest = 1
  let middle: number | null = null
  for (let i = 1; i < ends.length; i++) {
    const [from, to] = [ends[i - 1]!, ends[i]!]
    const frame = Math.floor((from + to) / 2)
    if (to - from <= longest || frame <= from) continue
    longest = to - from
    middle = frame
  }
  return middle
}
