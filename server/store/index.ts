import { createHash, randomUUID } from 'node:crypto'
import { createReadStream } from 'node:fs'
import { copyFile, link, mkdir, rename, rm, stat, utimes, writeFile } from 'node:fs/promises'
import path from 'node:path'
import { pipeline } from 'node:stream/promises'

/** Writes under another name and renames: a reader never sees half a file, a killed writer leaves none. */
export async function writeWhole(file: string, bytes: Uint8Array | string): Promise<void> {
  await mkdir(path.dirname(file), { recursive: true })
  const building = `${file}.${randomUUID()}.part`
  try {
    await writeFile(building, bytes)
    await rename(building, file)
  } catch (error) {
    await rm(building, { force: true })
    throw error
  }
}

export async function exists(file: string): Promise<boolean> {
  return stat(file).then(
    () => true,
    () => false,
  )
}

export async function sha256OfFile(file: string): Promise<string> {
  const hash = createHash('sha256')
  await pipeline(createReadStream(file), hash)
  return hash.digest('hex')
}

export const sha256 = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex')

/** Place of an original in the content-addressed store. */
export function originalPath(originals: string, hash: string): string {
  return path.join(originals, hash.slice(0, 2), hash)
}

/** Takes a file into the store by its content and returns the hash. The same content is kept once. */
export async function keepOriginal(originals: string, file: string): Promise<string> {
  const hash = await sha256OfFile(file)
  const target = originalPath(originals, hash)
  if (await exists(target)) {
    // As new: what nothing refers to yet must not be collected while a shot is made of it.
    await utimes(target, new Date(), new Date())
    return hash
  }
  await mkdir(path.dirname(target), { recursive: true })
  const building = `${target}.${randomUUID()}.part`
  // A hard link costs nothing; over a file system border it is not possible and the file is copied.
  await link(file, building).catch(() => copyFile(file, building))
  await rename(building, target)
  return hash
}

/** What a failure of the machine means for the artist: what happened, what is safe, what to do. */
export function wordsOfFailure(error: unknown): string {
  const code = (error as { code?: unknown } | null)?.code
  if (code === 'ENOSPC' || code === 'EDQUOT') {
    return 'The disk is full. What was finished is kept: free some space, then try again'
  }
  if (code === 'EACCES' || code === 'EPERM' || code === 'EROFS') {
    return 'The data folder cannot be written. What was finished is kept: make it writable, then try again'
  }
  if (code === 'EMFILE' || code === 'ENFILE') {
    return 'The machine has too many files open just now. What was finished is kept: try again in a moment'
  }
  const words = String(error instanceof Error ? error.message : error).split('\n')[0]
  return `Something unforeseen went wrong (${words}). What was finished is kept: try again`
}
