import { describe, expect, it } from 'vitest'
import { splineCoefficients } from './splineCoefficients'

const [width, height] = [23, 17]
const image = {
  left: 0,
  top: 0,
  width,
  height,
  data: Float32Array.from({ length: width * height }, (_, i) => 0.5 + 0.5 * Math.sin(i * i)),
}

describe('coefficients of the cubic B-spline through a picture', () => {
  it('weighted 1/6, 4/6, 1/6 across and down they give the pixels again, mirrored at the edges', () => {
    // Uniform cubic B-spline at its knots (de Boor; the weights are the textbook ones).
    const { data } = splineCoefficients(image)
    const at = (x: number, y: number) => {
      const mirrored = (i: number, size: number) => (i < 0 ? -i : i >= size ? 2 * size - 2 - i : i)
      return data[mirrored(y, height) * width + mirrored(x, width)]!
    }
    const across = (x: number, y: number) => (at(x - 1, y) + 4 * at(x, y) + at(x + 1, y)) / 6
    const apart = Array.from(image.data, (value, i) => {
      const [x, y] = [i % width, Math.floor(i / width)]
      return Math.abs((across(x, y - 1) + 4 * across(x, y) + across(x, y + 1)) / 6 - value)
    })
    expect(Math.max(...apart)).toBeLessThan(2e-6)
  })

  it('a picture that is one value all over is its own', () => {
    const flat = { ...image, data: new Float32Array(width * height).fill(0.3) }
    expect(Math.max(...splineCoefficients(flat).data.map((value) => Math.abs(value - 0.3)))).toBeLessThan(1e-6)
  })

  it('a picture too small to look anything up in stays as it is, and none is changed', () => {
    const before = Float32Array.from(image.data)
    const small = { ...image, width: 3, data: image.data.slice(0, 3 * height) }
    expect(splineCoefficients(small)).toBe(small)
    splineCoefficients(image)
    expect(image.data).toEqual(before)
  })
})
