import { describe, expect, it } from 'vitest'
import { profileAlong, steepestNear } from './profile'

const SIZE = 40
const image = (value: (x: number, y: number) => number) => ({
  left: 100,
  top: 50,
  width: SIZE,
  height: SIZE,
  data: Float32Array.from({ length: SIZE * SIZE }, (_, i) => value((i % SIZE) + 0.5, Math.floor(i / SIZE) + 0.5)),
})

describe('the profile across an edge', () => {
  it.each([0, 25, 90, 160, 225, 315])('lies across it, falling, whatever its angle (%d degrees)', (degrees) => {
    const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)]
    // Full on one side, empty where c x + s y is larger, a ramp of 4 px between.
    const ramp = image((x, y) => Math.min(1, Math.max(0, 0.5 - (c * (x - 20) + s * (y - 20)) / 4)))
    const found = steepestNear(ramp, 120, 70, 8)!
    expect(found.normalX).toBeCloseTo(c, 1)
    expect(found.normalY).toBeCloseTo(s, 1)
    const profile = profileAlong(ramp, found, 6, 0.5)
    const off = c * (found.x - 120) + s * (found.y - 70)
    profile.forEach((value, i) => {
      const along = -6 + 0.5 * i + off
      expect(Math.abs(value - Math.min(1, Math.max(0, 0.5 - along / 4)))).toBeLessThan(0.08)
    })
  })

  it('is looked for near the place, and not where nothing changes', () => {
    const two = image((x) => (x < 10 ? 1 : x < 30 ? 0 : 1))
    expect(steepestNear(two, 108, 70, 6)!.x).toBeLessThan(112)
    expect(steepestNear(two, 131, 70, 6)!.x).toBeGreaterThan(128)
    expect(steepestNear(two, 120, 70, 6)).toBeNull()
    expect(
      steepestNear(
        image(() => 0.3),
        120,
        70,
        6,
      ),
    ).toBeNull()
    expect(Number.isNaN(profileAlong(two, { x: 101, y: 70, normalX: 1, normalY: 0 }, 5, 1)[0]!)).toBe(true)
  })
})
