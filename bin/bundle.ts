import { readFile } from 'node:fs/promises'
import path from 'node:path'
import { pathToFileURL } from 'node:url'
import { build, type Plugin } from 'esbuild'
import { BUILT, programFile, PROGRAMS, type Program } from './programs'

const root = path.resolve(import.meta.dirname, '..')

/**
 * Writes each program as one file. Packages are left where they are: only what is ours is put together, as it is, without
 * being shortened.
 *
 * @throws Error when a source cannot be read, or starts a thread that is none of the programs
 */
export async function bundlePrograms(): Promise<void> {
  await build({
    absWorkingDir: root,
    entryPoints: [...PROGRAMS],
    outbase: root,
    outdir: path.join(root, BUILT),
    outExtension: { '.js': '.mjs' },
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    logLevel: 'error',
    plugins: [packagesOutside, placesKept],
  })
}

const packagesOutside: Plugin = {
  name: 'packages outside',
  setup(bundling) {
    bundling.onResolve({ filter: /^[^./]/ }, ({ kind, path: name }) =>
      kind === 'entry-point' || name.startsWith('@tender-lasso/') ? undefined : { path: name, external: true },
    )
  },
}

/** What a source says of its own place holds where the source is; a thread is started from its bundled file. */
const placesKept: Plugin = {
  name: 'places kept',
  setup(bundling) {
    bundling.onLoad({ filter: /\.ts$/ }, async ({ path: file }) => {
      const source = await readFile(file, 'utf8')
      if (!source.includes('import.meta.')) return undefined
      const contents = source
        .replace(/new URL\('(\.[\w./]+\.ts)', import\.meta\.url\)/g, (_, name: string) => {
          const program = path.relative(root, path.resolve(path.dirname(file), name))
          if (!isProgram(program)) throw new Error(`${program} is started by ${file}, but is none of the programs`)
          return `new URL(${JSON.stringify(pathToFileURL(path.join(root, programFile(program))).href)})`
        })
        .replaceAll('import.meta.url', JSON.stringify(pathToFileURL(file).href))
        .replaceAll('import.meta.dirname', JSON.stringify(path.dirname(file)))
      return { contents, loader: 'ts' }
    })
  },
}

const isProgram = (file: string): file is Program => (PROGRAMS as readonly string[]).includes(file)
