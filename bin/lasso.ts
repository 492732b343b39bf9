import path from 'node:path'
import { Command, CommanderError, InvalidArgumentError, Option } from 'commander'
import { COLOUR_ENCODINGS } from '@tender-lasso/core/colour'
import { CoreError } from '@tender-lasso/core/errors'
import { FormatError } from '@tender-lasso/formats/errors'
import { Problem } from '../server/errors'
import { openHouse } from './house'
import { StartError } from './startError'

/**
 * The command line: what the application does without a browser, by the same core. Exit codes: 0 all is well, 1 it could not be done (why stands on the error
 * stream), 2 it was asked for wrongly.
 */
const root = path.resolve(import.meta.dirname, '..')
const caller = process.env.TENDER_LASSO_CALLER ?? process.cwd()
const fileOf = (name: string) => path.resolve(caller, name)

const program = new Command('bin/lasso')
  .description('Tender Lasso without a browser, whether the application is running or not.')
  .option('--json', 'answer with JSON on the output stream')
  .configureHelp({ showGlobalOptions: true })
  .showHelpAfterError('(bin/lasso --help tells more)')
  .exitOverride()

type Acts = typeof import('./lassoActs')

/** An act within an opened house, its answer printed. What acts need is read first here: help need not wait for it. */
function doing<Args extends unknown[]>(act: (acts: Acts, ...args: Args) => Promise<unknown>) {
  return async (...args: Args) => {
    const house = await openHouse(root)
    try {
      print(await act(await import('./lassoActs'), ...args))
    } finally {
      await house.close()
    }
  }
}

function print(answer: unknown) {
  if (program.opts<{ json?: boolean }>().json) return console.log(JSON.stringify(answer, null, 1))
  const rows = (Array.isArray(answer) ? answer : [answer]) as Record<string, unknown>[]
  if (rows.length === 0) return console.log('none')
  const columns = Object.keys(rows[0]!)
  const cell = (row: Record<string, unknown>, column: string) => String(row[column] ?? '-')
  const widths = columns.map((column) => Math.max(column.length, ...rows.map((row) => cell(row, column).length)))
  const line = (cells: string[]) => cells.map((text, i) => text.padEnd(widths[i]!)).join('  ').trimEnd() // prettier-ignore
  console.log([line(columns), ...rows.map((row) => line(columns.map((column) => cell(row, column))))].join('\n'))
}

/** Frames made so far, on one line of the error stream where a person looks at it. */
const told = {
  onProgress(done: number, total: number) {
    if (process.stderr.isTTY) process.stderr.write(`\r${done} of ${total} frames${done === total ? '\n' : ''}`)
  },
}

program
  .command('projects')
  .description('list the projects')
  .action(doing((acts) => acts.projects()))

program
  .command('shots')
  .description('list the shots, of all projects or of one')
  .option('-p, --project <name>', 'name or id of a project')
  .action(doing((acts, { project }: { project?: string }) => acts.shots(project)))

program
  .command('outputs')
  .description('list what a shot hands off, and how far each output is behind')
  .argument('<shot>', 'name or id')
  .action(doing(async (acts, shot: string) => acts.outputs((await acts.shotOf(shot)).id)))

program
  .command('write')
  .description('write outputs of a shot, all where none is named, and wait for them')
  .argument('<shot>', 'name or id')
  .argument('[outputs...]', 'names or ids')
  .option('-t, --to <folder>', 'copy the files there as well, by shot, output and version')
  .action(
    doing(async (acts, shot: string, outputs: string[], { to }: { to?: string }) =>
      acts.write((await acts.shotOf(shot)).id, outputs, to === undefined ? null : fileOf(to), told),
    ),
  )

program
  .command('export')
  .description("write a shot's data (Parts, shapes, tracks, settings) as JSON")
  .argument('<shot>', 'name or id')
  .argument('<file>', 'where to')
  .option('-p, --part <names...>', 'only these Parts and what they need')
  .action(
    doing(async (acts, shot: string, file: string, { part }: { part?: string[] }) =>
      acts.exportData((await acts.shotOf(shot)).id, part ?? [], fileOf(file)),
    ),
  )

program
  .command('import')
  .description('read shot data into a shot of the same plate, as one edit')
  .argument('<shot>', 'name or id')
  .argument('<file>', 'JSON written by export, or by the application')
  .action(
    doing(async (acts, shot: string, file: string) => acts.importData((await acts.shotOf(shot)).id, fileOf(file))),
  )

const rate = (words: string) => {
  const [, numerator, denominator = '1'] = /^(\d+)(?:\/(\d+))?$/.exec(words) ?? []
  if (!numerator) throw new InvalidArgumentError('a rate is a number such as 24, or a fraction such as 24000/1001')
  return { numerator: Number(numerator), denominator: Number(denominator) }
}
const number = (words: string) => {
  const value = Number(words)
  if (!Number.isFinite(value)) throw new InvalidArgumentError('this is no number')
  return value
}

interface IngestOptions {
  firstFrame: number
  rate: { numerator: number; denominator: number }
  pixelAspect: number
  colour: (typeof COLOUR_ENCODINGS)[number]
}

program
  .command('ingest')
  .description('make a shot of picture files or of a movie, and wait until it is read')
  .argument('<project>', 'name or id; a new one is made where there is none of that name')
  .argument('<shot>', 'name of the new shot')
  .argument('<files...>', 'pictures, or one movie')
  .addOption(new Option('-f, --first-frame <number>', 'number of the first frame').default(1001).argParser(number))
  .addOption(
    new Option('-r, --rate <rate>', 'frames a second').default({ numerator: 24, denominator: 1 }, '24').argParser(rate),
  ) // prettier-ignore
  .addOption(new Option('-a, --pixel-aspect <ratio>', 'width of a pixel over its height').default(1).argParser(number))
  .addOption(
    new Option('-c, --colour <encoding>', 'how values stand for light').default('sRGB').choices([...COLOUR_ENCODINGS]),
  ) // prettier-ignore
  .action(
    doing(
      (
        acts,
        project: string,
        name: string,
        files: string[],
        { firstFrame, rate, pixelAspect, colour }: IngestOptions,
      ) => {
        const settings = { name, firstFrame, rate, pixelAspect, colourEncoding: colour }
        return acts.ingest(project, files.map(fileOf), settings, told)
      },
    ),
  )

try {
  await program.parseAsync()
} catch (error) {
  if (error instanceof CommanderError) process.exit(error.exitCode === 0 ? 0 : 2)
  const isForPeople =
    error instanceof StartError || error instanceof Problem || error instanceof FormatError || error instanceof CoreError || (error as NodeJS.ErrnoException).code === 'ENOENT' // prettier-ignore
  console.error(isForPeople ? (error as Error).message : error)
  process.exit(1)
}
process.exit(0)
