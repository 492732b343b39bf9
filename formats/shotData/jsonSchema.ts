import { z } from 'zod'
import { objectSchema, SCHEMA_VERSION } from '@tender-lasso/core/document'
import { SHOT_DATA_FORMAT } from './shotData'

/** The published JSON Schema (draft 2020-12) of shot data, made from the schemas that are checked against. */
export function shotDataSchema(): object {
  const object = z.toJSONSchema(objectSchema, {
    io: 'input',
    unrepresentable: 'any',
    // Long lists of numbers are looked at in one loop by a check of our own, which has no form in JSON Schema.
    override({ zodSchema, jsonSchema }) {
      if (zodSchema._zod.def.type !== 'custom') return
      jsonSchema.type = 'array'
      jsonSchema.items = { type: 'number' }
    },
  }) as Record<string, unknown>
  const { $schema, ...definition } = object
  return {
    $schema,
    title: 'Shot data of Tender Lasso',
    type: 'object',
    properties: {
      format: { const: SHOT_DATA_FORMAT },
      version: { const: 1 },
      schemaVersion: { type: 'integer', minimum: 1, maximum: SCHEMA_VERSION },
      name: { type: 'string', minLength: 1, maxLength: 200 },
      whole: { type: 'boolean' },
      objects: { type: 'array', items: definition },
    },
    required: ['format', 'version', 'schemaVersion', 'name', 'whole', 'objects'],
  }
}
