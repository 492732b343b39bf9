/** How the values of a plate stand for light. */
export const COLOUR_ENCODINGS = ['sRGB', 'Rec.709', 'linear', 'log'] as const
export type ColourEncoding = (typeof COLOUR_ENCODINGS)[number]

/** Scene-linear light of a value encoded 0..1 by the sRGB curve. IEC 61966-2-1, 5.2. */
export function linearFromSrgb(value: number): number {
  return value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4
}

/** The sRGB curve of a linear light. IEC 61966-2-1, 5.3. */
export function srgbFromLinear(light: number): number {
  return light <= 0.0031308 ? light * 12.92 : 1.055 * light ** (1 / 2.4) - 0.055
}

/** Linear light of a value encoded by the camera curve of ITU-R BT.709, item 1.2, inverted. */
export function linearFromRec709(value: number): number {
  return value < 0.081 ? value / 4.5 : ((value + 0.099) / 1.099) ** (1 / 0.45)
}

export function rec709FromLinear(light: number): number {
  return light < 0.018 ? light * 4.5 : 1.099 * light ** 0.45 - 0.099
}

const LOG_BLACK = 95
const LOG_WHITE = 685
/** Printing density a code of 10 bits, over the negative's gamma: ten to this power is one code of light. */
const LOG_STEP = 0.002 / 0.6
const LOG_OFFSET = 10 ** ((LOG_BLACK - LOG_WHITE) * LOG_STEP)

/** Linear light of a printing-density log value 0..1: 10-bit code 95 is black, 685 is white (1.0). */
export function linearFromLog(value: number): number {
  return (10 ** ((value * 1023 - LOG_WHITE) * LOG_STEP) - LOG_OFFSET) / (1 - LOG_OFFSET)
}

export function logFromLinear(light: number): number {
  return (LOG_WHITE + Math.log10(Math.max(1e-9, light * (1 - LOG_OFFSET) + LOG_OFFSET)) / LOG_STEP) / 1023
}

const TO_LINEAR: Record<ColourEncoding, (value: number) => number> = {
  sRGB: linearFromSrgb,
  'Rec.709': linearFromRec709,
  linear: (value) => value,
  log: linearFromLog,
}

/** Scene-linear light of an encoded value 0..1. */
export function toLinear(encoding: ColourEncoding, value: number): number {
  return TO_LINEAR[encoding](value)
}

/**
 * Table from 16-bit values of an encoding to 16-bit values as a display shows them. sRGB and Rec.709 are made for
 * displays and stay as they are; linear light and log go through linear to the sRGB curve.
 */
export function displayTable(encoding: ColourEncoding): Uint16Array {
  const isForDisplay = encoding === 'sRGB' || encoding === 'Rec.709'
  return Uint16Array.from({ length: 65536 }, (_, i) => {
    if (isForDisplay) return i
    const shown = srgbFromLinear(Math.max(0, toLinear(encoding, i / 65535)))
    return Math.min(65535, Math.round(shown * 65535))
  })
}
