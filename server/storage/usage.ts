import { statfs } from 'node:fs/promises'
import { readSettings } from '../settings'
import { keys, mediaStore } from '../store'

export interface StorageUsage {
  /** Bytes by what they are for. */
  originals: number
  frames: number
  handoffs: number
  uploads: number
  /** Bytes of the disk that are free, and all of it. */
  free: number
  total: number
  /** Little enough is left that the next plate may not fit. */
  isNearlyFull: boolean
}

/** Below so many bytes a disk is nearly full: a 4K plate of 100 frames takes about as much. */
const LITTLE = 4e9

const KNOWN_MS = 30_000
let known: { at: number; usage: Promise<StorageUsage> } | null = null

/** What the data folder takes, counted anew at most twice a minute. */
export function storageUsage(): Promise<StorageUsage> {
  if (!known || Date.now() - known.at > KNOWN_MS) {
    known = { at: Date.now(), usage: counted() }
    known.usage.catch(() => (known = null))
  }
  return known.usage
}

async function counted(): Promise<StorageUsage> {
  const store = mediaStore()
  const [originals, frames, handoffs, uploads] = await Promise.all(
    [keys.originals, keys.frames, keys.handoffs, keys.uploads].map((key) => store.bytesBelow(key)),
  )
  return { originals: originals!, frames: frames!, handoffs: handoffs!, uploads: uploads!, ...(await diskSpace()) }
}

/** Space of the disk that the data folder lies on. */
export async function diskSpace(): Promise<Pick<StorageUsage, 'free' | 'total' | 'isNearlyFull'>> {
  const { bavail, blocks, bsize } = await statfs(readSettings().dataFolder)
  const free = bavail * bsize
  return { free, total: blocks * bsize, isNearlyFull: free < LITTLE }
}
