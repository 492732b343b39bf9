import { readdir, stat, statfs } from 'node:fs/promises'
import path from 'node:path'
import { readSettings } from '../settings'

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
  const settings = readSettings()
  const [originals, frames, handoffs, uploads] = await Promise.all(
    [settings.originals, settings.frames, settings.exports, settings.uploads].map(bytesIn),
  )
  return { originals: originals!, frames: frames!, handoffs: handoffs!, uploads: uploads!, ...(await diskSpace()) }
}

/** Space of the disk that the data folder lies on. */
export async function diskSpace(): Promise<Pick<StorageUsage, 'free' | 'total' | 'isNearlyFull'>> {
  const { bavail, blocks, bsize } = await statfs(readSettings().dataFolder)
  const free = bavail * bsize
  return { free, total: blocks * bsize, isNearlyFull: free < LITTLE }
}

async function bytesIn(folder: string): Promise<number> {
  let sum = 0
  const entries = await readdir(folder, { recursive: true, withFileTypes: true }).catch(() => [])
  for (let i = 0; i < entries.length; i += 64) {
    const sizes = await Promise.all(
      entries.slice(i, i + 64).map(async (entry) => {
        if (!entry.isFile()) return 0
        // What is taken away meanwhile counts nothing.
        return stat(path.join(entry.parentPath, entry.name)).then(({ size }) => size, () => 0) // prettier-ignore
      }),
    )
    for (const size of sizes) sum += size
  }
  return sum
}
