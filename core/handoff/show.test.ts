import { describe, expect, it } from 'vitest'
import { linearFromSrgb, srgbFromLinear } from '../colour'
import { showPicture } from './index'

const plate = Uint8Array.of(0, 128, 255, 30, 90, 200, 250, 10, 60)
const colours: [number, number, number][] = [[230, 159, 0], [86, 180, 233]] // prettier-ignore
const alphas = [Float32Array.of(0, 0.5, 1), Float32Array.of(0, 0.25, 0)]
const lin = (value: number) => linearFromSrgb(value / 255)
const enc = (light: number) => Math.round(255 * srgbFromLinear(light))

describe('a picture to look at', () => {
  it('in white is the coverage; shares add up, others do not', () => {
    const shares = showPicture('white', { plate: null, alphas, colours, areShares: true }, 3)
    expect([...shares]).toEqual([0, 0, 0, 191, 191, 191, 255, 255, 255])
    const overlapping = showPicture('white', { plate: null, alphas, colours, areShares: false }, 3)
    expect([...overlapping]).toEqual([0, 0, 0, 128, 128, 128, 255, 255, 255])
  })

  it('cut out is the plate where the mattes are and grey where not, mixed as light', () => {
    const out = showPicture('cutout', { plate, alphas, colours, areShares: true }, 3)
    const ground = linearFromSrgb(0.16)
    expect([...out.subarray(0, 3)]).toEqual([41, 41, 41])
    for (let c = 0; c < 3; c++) expect(out[3 + c]).toBe(enc(0.75 * lin(plate[3 + c]!) + 0.25 * ground))
    expect([...out.subarray(6)]).toEqual([...plate.subarray(6)])
  })

  it('over the plate is half a Part’s colour where it is, the nearest over the others, and the plate elsewhere', () => {
    const out = showPicture('overlay', { plate, alphas, colours, areShares: false }, 3)
    expect([...out.subarray(0, 3)]).toEqual([0, 128, 255])
    for (let c = 0; c < 3; c++) {
      const far = lin(plate[3 + c]!) * (1 - 0.125) + lin(colours[1]![c]!) * 0.125
      expect(Math.abs(out[3 + c]! - enc(far * (1 - 0.25) + lin(colours[0]![c]!) * 0.25))).toBeLessThanOrEqual(1)
      expect(Math.abs(out[6 + c]! - enc((lin(plate[6 + c]!) + lin(colours[0]![c]!)) / 2))).toBeLessThanOrEqual(1)
    }
  })
})
