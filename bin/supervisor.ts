import type { ChildProcess } from 'node:child_process'

const FIRST_PAUSE_MS = 500
const LONGEST_PAUSE_MS = process.env.TENDER_LASSO_SOAK ? FIRST_PAUSE_MS : 15_000
/** So many deaths of one child within a minute are no accident, unless they are what is wanted: see bin/soak. */
const MOST_DEATHS = process.env.TENDER_LASSO_SOAK ? Infinity : 5
const MINUTE_MS = 60_000
const PATIENCE_MS = 8000

/**
 * Keeps a child process alive: started again when it dies, after growing pauses. Five deaths in a minute are told as
 * hopeless.
 */
export class Supervised {
  private child: ChildProcess | null = null
  private deaths: number[] = []
  private isEnding = false
  private timer: ReturnType<typeof setTimeout> | undefined

  /**
   * @param start       starts the child
   * @param onStart     hears of each start
   * @param onHopeless  hears, in words, that it is not started again
   * @param signal      what ends it in order
   */
  constructor(
    readonly name: string,
    private readonly start: () => ChildProcess,
    private readonly onStart: (pid: number) => void,
    private readonly onHopeless: (why: string) => void,
    private readonly signal: NodeJS.Signals = 'SIGTERM',
  ) {}

  run() {
    const child = this.start()
    this.child = child
    if (child.pid !== undefined) this.onStart(child.pid)
    child.once('error', (error) => this.died(error.message))
    child.once('exit', (code, signal) => this.died(signal ?? `code ${code}`))
  }

  /** Ends the child and starts it no more. */
  async end(): Promise<void> {
    this.isEnding = true
    clearTimeout(this.timer)
    const { child } = this
    if (!child) return
    await new Promise<void>((resolve) => {
      child.once('exit', () => resolve())
      child.kill(this.signal)
      setTimeout(() => child.kill('SIGKILL'), PATIENCE_MS).unref()
    })
  }

  private died(how: string) {
    if (!this.child) return
    this.child = null
    if (this.isEnding) return
    const now = Date.now()
    this.deaths = [...this.deaths.filter((then) => now - then < MINUTE_MS), now]
    console.error(`${new Date().toISOString()} The ${this.name} ended (${how}); ${this.deaths.length} in a minute`)
    if (this.deaths.length >= MOST_DEATHS) {
      this.onHopeless(`The ${this.name} ended ${MOST_DEATHS} times within a minute, last by ${how}`)
      return
    }
    const pause = Math.min(LONGEST_PAUSE_MS, FIRST_PAUSE_MS * 2 ** (this.deaths.length - 1))
    this.timer = setTimeout(() => this.run(), pause)
  }
}
