import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  displayTable,
  linearFromLog,
  linearFromRec709,
  linearFromSrgb,
  logFromLinear,
  rec709FromLinear,
  srgbFromLinear,
} from './index'
import { numberBetween } from '../testing/numberBetween'

const unit = numberBetween(0, 1)

describe('transfer functions', () => {
  it('sRGB as IEC 61966-2-1 has it (values from memory: code 128 is 21.586 % light, 188 is 50.289 %)', () => {
    expect(linearFromSrgb(128 / 255)).toBeCloseTo(0.21586, 5)
    expect(linearFromSrgb(188 / 255)).toBeCloseTo(0.50289, 5)
    expect(linearFromSrgb(0.04045)).toBeCloseTo(0.0031308, 6)
    expect(linearFromSrgb(1)).toBeCloseTo(1, 12)
  })

  it('Rec.709 as ITU-R BT.709 has it: 4.5 L below 0.018, white to white', () => {
    expect(rec709FromLinear(0.01)).toBeCloseTo(0.045, 12)
    expect(rec709FromLinear(1)).toBeCloseTo(1, 12)
    expect(linearFromRec709(rec709FromLinear(0.18))).toBeCloseTo(0.18, 10)
  })

  it('printing-density log: 10-bit code 95 is black, 685 is white, more is brighter than white', () => {
    expect(linearFromLog(95 / 1023)).toBeCloseTo(0, 12)
    expect(linearFromLog(685 / 1023)).toBeCloseTo(1, 12)
    expect(linearFromLog(1)).toBeGreaterThan(10)
  })

  it('are undone by their counterparts', () => {
    fc.assert(
      fc.property(unit, (value) => {
        // The two pieces of BT.709 meet only to three places.
        expect(srgbFromLinear(linearFromSrgb(value))).toBeCloseTo(value, 6)
        expect(rec709FromLinear(linearFromRec709(value))).toBeCloseTo(value, 3)
        expect(logFromLinear(linearFromLog(value))).toBeCloseTo(value, 6)
      }),
    )
  })

  it('what is made for a display stays as it is, linear light is brightened, log is stretched', () => {
    expect(displayTable('sRGB')[12345]).toBe(12345)
    expect(displayTable('Rec.709')[40000]).toBe(40000)
    expect(displayTable('linear')[Math.round(0.21586 * 65535)]! / 257).toBeCloseTo(128, 0)
    expect(displayTable('log')[Math.round((685 / 1023) * 65535)]! / 65535).toBeCloseTo(1, 3)
  })
})
