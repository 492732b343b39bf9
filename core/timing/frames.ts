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

export function framesPerSecond(rate: Rate): number {
  return rate.numerator / rate.denominator
}

/** "24" or "23.976": what people call the rate. */
export function rateName(rate: Rate): string {
  return String(Number(framesPerSecond(rate).toFixed(3)))
}
