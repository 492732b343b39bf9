import { rmSync } from 'node:fs'
import path from 'node:path'
import { DATA_FOLDER, PORT } from './playwright.config'

/** The production start with an empty database; only the rendered demonstration is kept from run to run. */
for (const name of ['postgresql', 'database.json', 'uploads', 'originals', 'frames', 'exports']) {
  rmSync(path.join(DATA_FOLDER, name), { recursive: true, force: true })
}
process.env.TENDER_LASSO_DATA = DATA_FOLDER
process.env.PORT = String(PORT)
await import('../bin/launch')
