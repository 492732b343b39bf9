/** Frames per second as a fraction, since 23.976 is 24000/1001 and nothing else. */
export interface Rate {
  numerator: number
  denominator: number
}

const NTSC_RATES: ReadonlyArray<[number, number]> = [
  [23.976, 24000],
  [29.97, 30000],
  [47.952, 48000],
  [59.94, 60000],
]

/** The rational rate a decimal such as 23.976 or 25 stands for. Values within 0.005 of an NTSC rate are taken as that. */
export function rateFromDecimal(framesPerSecond: number): Rate {
  for (const [decimal, numerator] of NTSC_RATES) {
    if (Math.abs(framesPerSecond - decimal) < 0.005) return { numerator, denominator: 1001 }
  }
  if (Number.isInteger(framesPerSecond)) return { numerator: framesPerSecond, denominator: 1 }
  return { numerator: Math.round(framesPerSecond * 1000), denominator: 1000 }
}

const STANDARD_RATES = [23.976, 24, 25, 29.97, 30, 48, 50, 59.94, 60, 100, 119.88, 120]
/** Cameras that time their pictures by a clock of their own are off by a few parts in ten thousand. */
const CLOCK_ERROR = 5e-4

/**
 * The standard rate that a rate is next to without being it, null for others (rates of the trade; how far clocks are off
 * is common practice, no published source).
 */
export function standardRateBeside(rate: Rate): Rate | null {
  const own = framesPerSecond(rate)
  const off = (standard: Rate) => Math.abs(framesPerSecond(standard) / own - 1)
  const nearest = STANDARD_RATES.map(rateFromDecimal).reduce((a, b) => (off(a) <= off(b) ? a : b))
  const isIt = nearest.numerator * rate.denominator === nearest.denominator * rate.numerator
  return !isIt && off(nearest) < CLOCK_ERROR ? nearest : null
}

export function framesPerSecond(rate: Rate): number {
  return rate.numerator / rate.denominator
}

/** "24" or "23.976": what people call the rate. */
export function rateName(rate: Rate): string {
  return String(Number(framesPerSecond(rate).toFixed(3)))
}
