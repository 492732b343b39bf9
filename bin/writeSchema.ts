import { mkdirSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { bakedOutlinesJsonSchema } from '@tender-lasso/formats/bakedOutlines'
import { shotDataSchema } from '@tender-lasso/formats/shotData'

/** Writes the published JSON Schemas; tests see that they are those of the present schemas. */
const folder = path.resolve(import.meta.dirname, '..', 'docs', 'schemas')
mkdirSync(folder, { recursive: true })
for (const [name, schema] of [
  ['shot-data', shotDataSchema()],
  ['outlines', bakedOutlinesJsonSchema()],
] as const)
  writeFileSync(path.join(folder, `${name}.schema.json`), `${JSON.stringify(schema, null, 2)}\n`)
