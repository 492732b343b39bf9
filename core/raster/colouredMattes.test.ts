import { describe, expect, it } from 'vitest'
import { colourMattes, type MatteColour } from './colouredMattes'

const BOX = { left: 10, top: 20, right: 14, bottom: 22 }
const BLUE: MatteColour = [20, 90, 250]
const GOLD: MatteColour = [240, 180, 0]

const matte = (alpha: readonly number[], box = BOX) => ({ box, alpha: Float32Array.from(alpha) })

function pictureOf(mattes: readonly ReturnType<typeof matte>[], colours: readonly MatteColour[]) {
  const bytes = new Uint8Array(4 * 8).fill(77)
  colourMattes(new Uint32Array(bytes.buffer), BOX, mattes, colours)
  return Array.from({ length: 8 }, (_, i) => [...bytes.subarray(4 * i, 4 * i + 4)])
}

const NONE = [0, 0, 0, 0]

describe('a picture of mattes', () => {
  it('has the colour of a Part and its alpha to the nearest of 255, and nothing of what was there before', () => {
    const alphas = [0, 0.6 / 255, 0.3, 1, 0, 1 / 255, 0.91, 0.999]
    const picture = pictureOf([matte(alphas)], [BLUE])
    alphas.forEach((alpha, i) => expect(picture[i]).toEqual(alpha === 0 ? NONE : [...BLUE, Math.round(255 * alpha)]))
  })

  it('has a fitted matte where it lies', () => {
    const fitted = matte([1, 0.2], { left: 12, top: 21, right: 14, bottom: 22 })
    const [half, full] = [[...GOLD, 51], [...GOLD, 255]] // prettier-ignore
    expect(pictureOf([fitted], [GOLD])).toEqual([NONE, NONE, NONE, NONE, NONE, NONE, full, half])
  })

  it('adds up Parts that are cut out of one another: alphas to their sum, colours by what each covers', () => {
    const share = [0.25, 0.5, 0.8, 1, 0.1, 0.6, 0.3, 0]
    const rest = share.map((a) => 1 - a)
    const picture = pictureOf([matte(share), matte(rest)], [BLUE, GOLD])
    share.forEach((a, i) => {
      expect(picture[i]![3]).toBe(255)
      for (let c = 0; c < 3; c++)
        expect(Math.abs(picture[i]![c]! - (BLUE[c]! * a + GOLD[c]! * (1 - a)))).toBeLessThanOrEqual(1)
    })
  })

  it('is never covered more than wholly', () => {
    const most = Array.from({ length: 8 }, () => 0.9)
    for (const [, , , alpha] of pictureOf([matte(most), matte(most)], [BLUE, GOLD])) expect(alpha).toBe(255)
  })
})
