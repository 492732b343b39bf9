import { readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { randomUUID } from 'node:crypto'
import { StartError } from './startError'

/** A process by its id and the moment it began: ids are used again. */
interface Known {
  pid: number
  startedAt: string
}

interface Lock {
  holder: Known
  address: string
  /** What the holder started, by name. */
  children: (Known & { name: string })[]
}

/**
 * One start at a time has a data folder. A lock whose holder is dead is taken over, and what that left running is ended.
 */
export class FolderLock {
  private readonly file: string
  private lock: Lock

  /** @throws StartError when another start has the folder, naming its address */
  static async take(folder: string, address: string): Promise<FolderLock> {
    const lock = new FolderLock(folder, address)
    for (;;) {
      try {
        writeFileSync(lock.file, JSON.stringify(lock.lock), { flag: 'wx', mode: 0o600 })
        return lock
      } catch (error) {
        if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error
      }
      const found = readLock(lock.file)
      if (found && isSame(found.holder)) {
        throw new StartError(`Tender Lasso is already running on the data folder ${folder}: ${found.address}`)
      }
      // Whoever renames it first takes over; the other one finds the new lock.
      const aside = `${lock.file}.${randomUUID()}`
      try {
        renameSync(lock.file, aside)
      } catch {
        continue
      }
      rmSync(aside, { force: true })
      for (const child of found?.children ?? []) await ended(child)
    }
  }

  /** Whether a start that is alive has the folder. */
  static isHeld(folder: string): boolean {
    const found = readLock(path.join(folder, 'lock.json'))
    return found !== null && isSame(found.holder)
  }

  private constructor(folder: string, address: string) {
    this.file = path.join(folder, 'lock.json')
    this.lock = { holder: { pid: process.pid, startedAt: startedAt(process.pid) ?? '' }, address, children: [] }
  }

  /** Notes what was started, so that it can be ended when this process is killed. */
  note(name: string, pid: number) {
    const others = this.lock.children.filter((child) => child.name !== name)
    this.lock.children = [...others, { name, pid, startedAt: startedAt(pid) ?? '' }]
    writeFileSync(this.file, JSON.stringify(this.lock), { mode: 0o600 })
  }

  release() {
    rmSync(this.file, { force: true })
  }
}

function readLock(file: string): Lock | null {
  try {
    return JSON.parse(readFileSync(file, 'utf8')) as Lock
  } catch {
    // Cut short by a kill, or gone meanwhile: nobody holds it.
    return null
  }
}

/** When a process began, in ticks since the machine did; null when there is none, or it is only not yet buried. */
function startedAt(pid: number): string | null {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8')
    const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ')
    return fields[0] === 'Z' ? null : fields[19]!
  } catch {
    return null
  }
}

const isSame = ({ pid, startedAt: then }: Known) => startedAt(pid) === then

/** Ends a process in order, after ten seconds by force. PostgreSQL takes an interrupt as the wish to end soon. */
async function ended(child: Known & { name: string }) {
  if (!isSame(child)) return
  console.log(`Ending the ${child.name} that an earlier start left running`)
  send(child.pid, child.name === 'database' ? 'SIGINT' : 'SIGTERM')
  for (let i = 0; i < 100 && isSame(child); i++) await new Promise((resolve) => setTimeout(resolve, 100))
  if (isSame(child)) send(child.pid, 'SIGKILL')
}

function send(pid: number, signal: NodeJS.Signals) {
  try {
    process.kill(pid, signal)
  } catch {
    // It has just ended by itself.
  }
}
