export interface Measured {
  value: number
  unit: string
  /** What was measured beside it, in words. */
  notes: string
}

export interface Benchmark {
  name: string
  goal: number
  /** less: the value must not exceed the goal; more: it must reach it. */
  better: 'less' | 'more'
  run(): Promise<Measured>
}

export function median(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b)
  return sorted[sorted.length >> 1]!
}

/** The value that so many percent do not exceed. */
export function percentile(values: readonly number[], percent: number): number {
  const sorted = [...values].sort((a, b) => a - b)
  return sorted[Math.min(sorted.length - 1, Math.ceil((percent / 100) * sorted.length) - 1)]!
}

/** Medians of two pieces of work done in turn, so that a drifting machine speed meets both alike. Milliseconds. */
export function inTurn(rounds: number, ours: () => void, theirs: () => void): [number, number] {
  const times: [number[], number[]] = [[], []]
  for (let i = 0; i < rounds + 2; i++) {
    for (const [index, work] of [ours, theirs].entries()) {
      const start = performance.now()
      work()
      if (i >= 2) times[index]!.push(performance.now() - start)
    }
  }
  return [median(times[0]), median(times[1])]
}
