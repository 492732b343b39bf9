import { describe, expect, it } from 'vitest'
import { isoLines } from './isoLines'

const SIZE = 40
const pictureOf = (value: (x: number, y: number) => number) =>
  Float32Array.from({ length: SIZE * SIZE }, (_, i) => value((i % SIZE) + 0.5, Math.floor(i / SIZE) + 0.5))

describe('lines of one value', () => {
  it('of a plane are straight, wherever and however it lies', () => {
    for (const degrees of [0, 30, 90, 137, 200]) {
      const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)]
      const lines = isoLines(
        pictureOf((x, y) => c * (x - 20) + s * (y - 19)),
        SIZE,
        SIZE,
        1.7,
      )
      expect(lines.length).toBeGreaterThan(4 * 20)
      for (let i = 0; i < lines.length; i += 2)
        expect(c * (lines[i]! - 20) + s * (lines[i + 1]! - 19)).toBeCloseTo(1.7, 4)
    }
  })

  it('of a cone are a circle, closed, as long as it is round', () => {
    const lines = isoLines(
      pictureOf((x, y) => 20 - Math.hypot(x - 20, y - 20)),
      SIZE,
      SIZE,
      8,
    )
    let length = 0
    const ends = new Map<string, number>()
    for (let i = 0; i < lines.length; i += 4) {
      length += Math.hypot(lines[i + 2]! - lines[i]!, lines[i + 3]! - lines[i + 1]!)
      for (const at of [i, i + 2]) {
        expect(Math.abs(Math.hypot(lines[at]! - 20, lines[at + 1]! - 20) - 12)).toBeLessThan(0.02)
        const place = `${lines[at]!.toFixed(6)} ${lines[at + 1]!.toFixed(6)}`
        ends.set(place, (ends.get(place) ?? 0) + 1)
      }
    }
    expect(Math.abs(length - 24 * Math.PI)).toBeLessThan(0.3)
    // Every place where a piece ends another one begins.
    for (const count of ends.values()) expect(count).toBe(2)
  })

  it('of an even picture are none, and where two corners face each other each piece ends at an edge of its square', () => {
    expect(
      isoLines(
        pictureOf(() => 0.4),
        SIZE,
        SIZE,
        0.5,
      ),
    ).toEqual([])
    expect(isoLines([1, 0, 0, 1], 2, 2, 0.5)).toHaveLength(8)
    expect(isoLines([0, 1, 1, 0], 2, 2, 0.5)).toHaveLength(8)
  })
})
