import path from 'node:path'
import { Command, CommanderError, Option } from 'commander'
import { LIVE_ENDINGS, type LiveEnding } from '@tender-lasso/core/handoff'
import { mirror } from './liveMirror'
import { StartError } from './startError'

/** A stand-in for a compositing program: it reads a live output into a folder and follows the edits. Exit codes as bin/lasso's. */
const caller = process.env.TENDER_LASSO_CALLER ?? process.cwd()
const stop = new AbortController()
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => stop.abort())

const program = new Command('bin/watch')
  .description('Keeps a folder the same as a live output of Tender Lasso, and follows each edit. Ctrl-C ends it.')
  .argument('<address>', 'address of the output, as Handoff gives it, its token in it')
  .argument('<folder>', 'where the files go')
  .addOption(
    new Option('-a, --as <kind>', 'all mattes as channels, or one grey picture').choices(LIVE_ENDINGS).default('exr'),
  )
  .option('--once', 'end when the folder is the same as the output')
  .exitOverride()
  .action(async (address: string, folder: string, { as: ending, once }: { as: LiveEnding; once?: boolean }) => {
    if (!URL.canParse(address)) throw new StartError(`${address} is no address`)
    let frames = 0
    await mirror(
      {
        address,
        folder: path.resolve(caller, folder),
        ending,
        onFrame({ file, version, milliseconds }) {
          frames++
          console.log(version ? `${file}  ${version.slice(0, 8)}  ${milliseconds.toFixed(0)} ms` : `${file} taken away`)
        },
        onSettled({ sequence }) {
          console.log(`the same as edit ${sequence}, ${frames} file${frames === 1 ? '' : 's'} anew`)
          frames = 0
          if (once) stop.abort()
        },
        onTrouble: (why) => console.error(`${why}; asking again`),
      },
      stop.signal,
    )
  })

try {
  await program.parseAsync()
} catch (error) {
  if (error instanceof CommanderError) process.exit(error.exitCode === 0 ? 0 : 2)
  if (!stop.signal.aborted) {
    console.error((error as Error).message)
    process.exit(1)
  }
}
process.exit(0)
