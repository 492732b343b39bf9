import { channelsOfEverything } from './channels'
import { focusAtPoints, widened } from './focusAtPoints'
import { isFields, type Fields } from './json'
import type { Upcaster } from './upcaster'
import { valuesOfSeveralKeys } from './valuesOfSeveralKeys'

/** In the order of the versions that they lead to. A log is never rewritten: these are kept for good. */
const UPCASTERS: readonly Upcaster[] = [valuesOfSeveralKeys, channelsOfEverything, focusAtPoints]

const LATEST = UPCASTERS.at(-1)!.to

/** An object as an earlier version stored it, as this one has it. */
export function liftedObject(object: unknown, schemaVersion: number): unknown {
  if (!isFields(object)) return object
  return UPCASTERS.reduce((now, { to, object: lift }) => (schemaVersion < to ? lift(now) : now), object)
}

/** A key, as a version from 3 on stored it for a channel, as this one has it. */
export const liftedKey = (key: unknown, channel: string, schemaVersion: number): unknown =>
  channel === 'outline' && schemaVersion < focusAtPoints.to ? widened(key) : key

/** A batch of an earlier version as this one would have written it; what is none is left to the schema to refuse. */
export function liftedBatch(batch: unknown): unknown {
  if (!isFields(batch) || typeof batch.schemaVersion !== 'number' || batch.schemaVersion >= LATEST) return batch
  if (!Array.isArray(batch.patches)) return batch
  const { schemaVersion } = batch
  const patches = UPCASTERS.filter(({ to }) => schemaVersion < to).reduce<unknown[]>(
    (now, upcaster) => now.flatMap((patch) => (isFields(patch) ? liftedPatch(patch, upcaster) : [patch])),
    batch.patches,
  )
  return { ...batch, schemaVersion: LATEST, patches }
}

function liftedPatch(patch: Fields, { object, patch: lift }: Upcaster): Fields[] {
  if (patch.kind !== 'object') return lift(patch)
  const lifted = (value: unknown) => (isFields(value) ? object(value) : value)
  return [{ ...patch, before: lifted(patch.before), after: lifted(patch.after) }]
}
