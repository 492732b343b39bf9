import { mkdirSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { shotDataSchema } from '@tender-lasso/formats/shotData'

/** Writes the published JSON Schema of shot data; a test sees that it is that of the present schemas. */
const folder = path.resolve(import.meta.dirname, '..', 'docs', 'schemas')
mkdirSync(folder, { recursive: true })
writeFileSync(path.join(folder, 'shot-data.schema.json'), `${JSON.stringify(shotDataSchema(), null, 2)}\n`)
