import { cpSync, readFileSync, rmSync } from 'node:fs'
import path from 'node:path'
import { pathToFileURL } from 'node:url'
import { programFile } from '../bin/programs'
import { dataFolderOf } from './playwright.config'

const [index, port] = process.argv.slice(2) as [string, string]
const folder = dataFolderOf(Number(index))

/** The production start with an empty database; only the rendered demonstration is kept from run to run. */
for (const name of ['postgresql', 'database.json', 'uploads', 'originals', 'frames', 'exports']) {
  rmSync(path.join(folder, name), { recursive: true, force: true })
}
if (index !== '0') copyDemonstration(path.join(dataFolderOf(0), 'demo'), path.join(folder, 'demo'))
process.env.TENDER_LASSO_DATA = folder
process.env.PORT = port
const root = path.resolve(import.meta.dirname, '..')
await import(pathToFileURL(path.join(root, programFile('bin/launch.ts'))).href)

/** The first application is up by now and has rendered it: for the others a copy will do. */
function copyDemonstration(from: string, to: string) {
  const stampOf = (demo: string) => readFileSync(path.join(demo, 'ws_010', 'rendered.json'), 'utf8')
  try {
    if (stampOf(to) === stampOf(from)) return
  } catch {
    // Nothing was copied yet.
  }
  rmSync(to, { recursive: true, force: true })
  cpSync(from, to, { recursive: true })
}
