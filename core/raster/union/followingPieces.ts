import type { BoundaryPieces } from './boundaryPieces'

/**
 * For each piece the index of the one that goes on from its end; -1 where that is not known of both of its ends: no piece,
 * or more than one, begins where it ends or ends where it begins.
 *
 * @param pieces  mostly in the order of their outlines
 */
export function followingPieces(pieces: BoundaryPieces): Int32Array {
  const count = pieces.length / 4
  const next = new Int32Array(count).fill(-1)
  const hasPrevious = new Uint8Array(count)
  const join = (i: number, j: number) => {
    next[i] = j
    hasPrevious[j] = 1
  }
  for (let i = 0; i + 1 < count; i++) {
    if (pieces[4 * i + 2] === pieces[4 * i + 4] && pieces[4 * i + 3] === pieces[4 * i + 5]) join(i, i + 1)
  }
  const startsAt = new Map<string, number>()
  const place = (at: number) => `${pieces[at]} ${pieces[at + 1]}`
  for (let i = 0; i < count; i++) {
    if (hasPrevious[i]) continue
    const here = place(4 * i)
    startsAt.set(here, startsAt.has(here) ? -1 : i)
  }
  for (let i = 0; i < count; i++) {
    if (next[i]! >= 0) continue
    const here = place(4 * i + 2)
    const follower = startsAt.get(here) ?? -1
    if (follower < 0) continue
    startsAt.set(here, -1)
    join(i, follower)
  }
  for (let i = 0; i < count; i++) if (!hasPrevious[i]) next[i] = -1
  return next
}
