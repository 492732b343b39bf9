import { describe, expect, it } from 'vitest'
import { applyToPoint, homographyFromPoints, identity, type Matrix3 } from '../geometry'
import { NOWHERE, positionMap, type PositionMapSettings } from './positionMap'

const [width, height] = [24, 17]
const MIDDLE = [width / 2, height / 2] as const
const PIXELS: PositionMapSettings = { way: 'forward', yAxis: 'down', units: 'pixels' }
/** A plane in perspective. */
const tilted: Matrix3 = homographyFromPoints(
  [0, 0, width, 0, width, height, 0, height],
  [3, 1, 22, -2, 25, 19, -1, 15],
)!

describe('position maps', () => {
  it('hold each middle of a pixel where nothing moves', () => {
    const { across, down } = positionMap(identity(), MIDDLE, width, height, PIXELS)
    for (const [x, y] of [
      [0, 0],
      [23, 0],
      [5, 16],
    ] as const) {
      expect([across[y * width + x], down[y * width + x]]).toEqual([x + 0.5, y + 0.5])
    }
    const up = positionMap(identity(), MIDDLE, width, height, { ...PIXELS, yAxis: 'up', units: 'normalised' })
    expect(up.across[3]).toBeCloseTo(3.5 / width, 6)
    expect(up.down[3]).toBeCloseTo(1 - 0.5 / height, 6)
  })

  it('forward and back undo each other (a homography and its inverse)', () => {
    const forward = positionMap(tilted, MIDDLE, width, height, PIXELS)
    const back = positionMap(tilted, MIDDLE, width, height, { ...PIXELS, way: 'back' })
    for (let at = 0; at < width * height; at += 7) {
      const [x, y] = [(at % width) + 0.5, Math.floor(at / width) + 0.5]
      const there = applyToPoint(tilted, forward.across[at]!, forward.down[at]!)
      expect(Math.hypot(there[0]! - x, there[1]! - y)).toBeLessThan(1e-4)
      const here = applyToPoint(tilted, x, y)
      expect(Math.hypot(back.across[at]! - here[0]!, back.down[at]! - here[1]!)).toBeLessThan(1e-4)
    }
  })

  it('have no place where the plane is behind the camera', () => {
    // w = 1 - x / 20: beyond x = 20 it is seen from the other side.
    const folded = Float64Array.of(1, 0, 0, 0, 1, 0, -1 / 20, 0, 1)
    const { across } = positionMap(folded, [4, 8], width, height, { ...PIXELS, way: 'back' })
    expect(across[19]).toBeCloseTo(19.5 / (1 - 19.5 / 20), 2)
    expect(Array.from(across.slice(20, 24))).toEqual([NOWHERE, NOWHERE, NOWHERE, NOWHERE])
  })

  it('know the side of a ground by the track, though the middle of the picture is above the horizon, and whatever the sign of the matrix', () => {
    // w = y / 4 - 3: the horizon is at y = 12, below the middle.
    const ground = Float64Array.of(1, 0, 0, 0, 1, 0, 0, 1 / 4, -3)
    for (const sign of [1, -1]) {
      const matrix = ground.map((value) => sign * value)
      const { across, down } = positionMap(matrix, [12, 15], width, height, { ...PIXELS, way: 'back' })
      expect(across[3 * width + 5]).toBe(NOWHERE)
      expect(down[15 * width + 5]).toBeCloseTo(15.5 / (15.5 / 4 - 3), 4)
      const forward = positionMap(matrix, [12, 15], width, height, PIXELS)
      const [x, y] = applyToPoint(matrix, forward.across[9 * width + 5]!, forward.down[9 * width + 5]!)
      expect(Math.hypot(x! - 5.5, y! - 9.5)).toBeLessThan(1e-4)
    }
  })
})
