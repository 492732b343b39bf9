import { readFileSync } from 'node:fs'
import { freemem } from 'node:os'
import { Problem } from '../errors'

/** Bytes that making the files of one frame takes for each of its pixels, at its most: 16-bit planes, tiles, copies. */
export const BYTES_A_PIXEL = 32
/** What frames under way may take together. */
const BUDGET = 2.5e9

let taken = 0
const waiting: (() => void)[] = []

/**
 * Does work that takes so much memory when there is room for it: others wait until it is done.
 *
 * @throws Problem 422 `too-little-memory` when the machine does not have it
 */
export async function withMemory<Result>(
  what: string,
  bytes: number,
  work: () => Promise<Result>,
  signal?: AbortSignal,
): Promise<Result> {
  const free = freeBytes()
  if (bytes > free * 0.7) {
    const [needed, there] = [bytes, free].map((number) => (number / 1e9).toFixed(1))
    throw new Problem(
      422,
      'too-little-memory',
      `${what} needs about ${needed} GB of memory, and ${there} GB are free: free some, or open a smaller version of it`,
    )
  }
  while (taken > 0 && taken + bytes > BUDGET) {
    await new Promise<void>((resolve) => waiting.push(resolve))
    signal?.throwIfAborted()
  }
  taken += bytes
  try {
    return await work()
  } finally {
    taken -= bytes
    for (const resolve of waiting.splice(0)) resolve()
  }
}

/** What the system would give a program without swapping. */
function freeBytes(): number {
  try {
    return Number(/^MemAvailable:\s+(\d+) kB/m.exec(readFileSync('/proc/meminfo', 'utf8'))![1]) * 1024
  } catch {
    return freemem()
  }
}
