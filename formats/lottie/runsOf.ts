/** A list in stretches of neighbours that are alike. */
export function runsOf<T>(list: readonly T[], areAlike: (before: T, next: T) => boolean): T[][] {
  const runs: T[][] = []
  for (const one of list) {
    const run = runs.at(-1)
    if (run && areAlike(run.at(-1)!, one)) run.push(one)
    else runs.push([one])
  }
  return runs
}
