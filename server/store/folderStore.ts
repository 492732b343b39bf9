import { randomUUID } from 'node:crypto'
import { createReadStream } from 'node:fs'
import { copyFile, link, mkdir, open, readdir, readFile, rename, rm, stat, utimes, writeFile } from 'node:fs/promises'
import path from 'node:path'
import type { OpenValue, Store, StoredAbout } from './store'

/** Files that are looked at at once when a folder is counted. */
const AT_ONCE = 64

/** Bytes that are read at once: a download goes through eight streams, each of which handles every piece. */
const PIECE = 2 ** 20

/** A folder of this machine: a key is a path below it. */
export class FolderStore implements Store {
  constructor(private readonly root: string) {}

  async put(key: string, value: Uint8Array | string): Promise<void> {
    await this.whole(key, (building) => writeFile(building, value))
  }

  async putFile(key: string, file: string): Promise<void> {
    // A hard link costs nothing; over a file system border it is not possible and the file is copied.
    await this.whole(key, (building) => link(file, building).catch(() => copyFile(file, building)))
  }

  async renew(key: string): Promise<void> {
    const now = new Date()
    await utimes(this.at(key), now, now)
  }

  read = (key: string): Promise<Uint8Array> => readFile(this.at(key))

  async open(key: string): Promise<OpenValue> {
    const handle = await open(this.at(key))
    return {
      readInto: async (target, at, length, from) => (await handle.read(target, at, length, from)).bytesRead,
      close: () => handle.close(),
    }
  }

  stream = (key: string) => createReadStream(this.at(key), { highWaterMark: PIECE })

  async about(key: string): Promise<StoredAbout | null> {
    const found = await stat(this.at(key)).catch(() => null)
    return found && { bytes: found.size, changedAt: Math.max(found.mtimeMs, found.ctimeMs) }
  }

  list = (key: string) => readdir(this.at(key)).catch(() => [] as string[])

  async bytesBelow(key: string): Promise<number> {
    let sum = 0
    const entries = await readdir(this.at(key), { recursive: true, withFileTypes: true }).catch(() => [])
    for (let i = 0; i < entries.length; i += AT_ONCE) {
      const sizes = await Promise.all(
        entries.slice(i, i + AT_ONCE).map(async (entry) => {
          if (!entry.isFile()) return 0
          // What is taken away meanwhile counts nothing.
          return stat(path.join(entry.parentPath, entry.name)).then(({ size }) => size, () => 0) // prettier-ignore
        }),
      )
      for (const size of sizes) sum += size
    }
    return sum
  }

  delete = (key: string) => rm(this.at(key), { recursive: true, force: true })

  fileOf = (key: string) => Promise.resolve(this.at(key))

  private at(key: string): string {
    return path.join(this.root, ...key.split('/'))
  }

  /** Written under another name and renamed: a reader never sees half a file, a killed writer leaves none. */
  private async whole(key: string, write: (building: string) => Promise<void>): Promise<void> {
    const file = this.at(key)
    await mkdir(path.dirname(file), { recursive: true })
    const building = `${file}.${randomUUID()}.part`
    try {
      await write(building)
      await rename(building, file)
    } catch (error) {
      await rm(building, { force: true })
      throw error
    }
  }
}
