/**
 * One order of all that stand in some lists: what joins later comes behind what it stands behind there, or in front of all. Where the lists agree it is theirs.
 */
export function orderOver(lists: readonly (readonly string[])[]): string[] {
  const all: string[] = []
  for (const list of lists) {
    list.forEach((one, n) => {
      if (all.includes(one)) return
      const before = list[n - 1]
      const next = list.slice(n + 1).find((other) => all.includes(other))
      const at = before !== undefined ? all.indexOf(before) + 1 : next !== undefined ? all.indexOf(next) : 0
      all.splice(at, 0, one)
    })
  }
  return all
}

/** Whether some of a list stand in its order. */
export function isWithin(some: readonly string[], all: readonly string[]): boolean {
  let at = -1
  return some.every((one) => {
    const before = at
    at = all.indexOf(one)
    return at > before
  })
}
