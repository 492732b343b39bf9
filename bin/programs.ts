import path from 'node:path'

/** Where the programs are put, from the project's folder. */
export const BUILT = '.built'

/** What Node.js is started with, processes and threads, by the source that each begins in. */
export const PROGRAMS = [
  'bin/launch.ts',
  'bin/lasso.ts',
  'bin/watch.ts',
  'worker/main.ts',
  'web/serve.ts',
  'server/media/frameThread.ts',
  'server/handoff/frameThread.ts',
  'server/liveHandoff/liveThread.ts',
  'demo/renderWorker.ts',
] as const

export type Program = (typeof PROGRAMS)[number]

/** The file of a program with all that is ours in it, from the project's folder; `ensure_programs` of setup.sh makes it. */
export const programFile = (program: Program): string => path.join(BUILT, program.replace(/\.ts$/, '.mjs'))
