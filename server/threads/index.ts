import Piscina from 'piscina'

/**
 * Threads without work are kept so long: starting one takes a second, what it has read is read again, and what it does is
 * slow until it is compiled.
 */
const IDLE_MS = 120_000

type PoolOptions = NonNullable<ConstructorParameters<typeof Piscina>[0]>

/** Threads that run a file, as it is written or bundled, started as they are needed. */
export const threadPool = <Task, Answer>(file: URL, options: Pick<PoolOptions, 'maxThreads' | 'taskQueue'>) =>
  new Piscina<Task, Answer>({
    filename: file.href,
    execArgv: file.pathname.endsWith('.ts') ? ['--import', 'tsx'] : [],
    minThreads: 0,
    idleTimeout: IDLE_MS,
    ...options,
  })

/** What a thread answers. @throws the signal's reason when the work was ended */
export async function answerOf<Task, Answer>(
  pool: Piscina<Task, Answer>,
  task: Task,
  options: { signal?: AbortSignal; transferList?: ArrayBuffer[] } = {},
): Promise<Answer> {
  return pool.run(task, options).catch((error: unknown) => {
    options.signal?.throwIfAborted()
    throw error
  })
}
