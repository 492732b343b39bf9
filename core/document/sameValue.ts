/** Deep equality of plain data; a typed array equals the list of the same numbers. */
export function sameValue(a: unknown, b: unknown): boolean {
  if (a === b) return true
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false
  if (isList(a) || isList(b)) {
    if (!isList(a) || !isList(b) || a.length !== b.length) return false
    for (let i = 0; i < a.length; i++) if (!sameValue(a[i], b[i])) return false
    return true
  }
  const keys = Object.keys(a)
  if (keys.length !== Object.keys(b).length) return false
  return keys.every(
    (key) => key in b && sameValue((a as Record<string, unknown>)[key], (b as Record<string, unknown>)[key]),
  )
}

function isList(value: unknown): value is ArrayLike<unknown> {
  return Array.isArray(value) || value instanceof Float64Array
}
