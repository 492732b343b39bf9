/** First of "name", "name 2", "name 3" ... that nobody has. */
export function freeName(base: string, taken: Iterable<string>): string {
  const known = new Set(taken)
  for (let n = 1; ; n++) {
    const name = n === 1 ? base : `${base} ${n}`
    if (!known.has(name)) return name
  }
}
