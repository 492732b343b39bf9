import type { Fields } from './json'
import type { Upcaster } from './upcaster'

/** Version 2: a patch of values is of several keys; it was of one. */
export const valuesOfSeveralKeys: Upcaster = {
  to: 2,
  object: (object) => object,
  patch(patch): Fields[] {
    if (patch.kind !== 'values' || !('time' in patch)) return [patch]
    const { time, ...rest } = patch
    return [{ ...rest, times: [time] }]
  },
}
