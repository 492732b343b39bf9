import { describe, expect, it } from 'vitest'
import { FormatError } from '../errors'
import { readSvg, type PathOutline } from './index'

/** Point at t of the segment behind point i. */
function at({ points }: PathOutline, i: number, t: number): [number, number] {
  const [a, b] = [points[i]!, points[(i + 1) % points.length]!]
  const s = 1 - t
  const [b0, b1, b2, b3] = [s ** 3, 3 * s * s * t, 3 * s * t * t, t ** 3]
  return [
    b0 * a.x + b1 * (a.x + a.outX) + b2 * (b.x + b.inX) + b3 * b.x,
    b0 * a.y + b1 * (a.y + a.outY) + b2 * (b.y + b.inY) + b3 * b.y,
  ]
}

describe('outlines from SVG', () => {
  it('the text of a path: absolute and relative, shorthand, two stretches', () => {
    const [closed, open] = readSvg('M10 10 h80 v40 l-80 0 z m 5 60 c 10 0 20 10 20 20 s 10 20 20 20')
    expect(closed!.isClosed).toBe(true)
    expect(closed!.points.map(({ x, y }) => [x, y])).toEqual([[10, 10], [90, 10], [90, 50], [10, 50]]) // prettier-ignore
    expect(open).toMatchObject({
      isClosed: false,
      points: [
        { x: 15, y: 70 },
        { x: 35, y: 90 },
        { x: 55, y: 110 },
      ],
    })
    // A shorthand cubic begins with the mirror image of the last handle (SVG 2, 9.3.6).
    expect([open!.points[1]!.outX, open!.points[1]!.outY]).toEqual([0, 10])
  })

  it('a quadratic curve is the same parabola', () => {
    const [outline] = readSvg('M0 0 Q 50 100 100 0')
    for (const t of [0.2, 0.5, 0.9]) {
      const [x, y] = at(outline!, 0, t)
      expect([x, y]).toEqual([expect.closeTo(100 * t, 9), expect.closeTo(200 * t * (1 - t), 9)])
    }
  })

  it('a circle is round to 3e-4 of its radius, through the transforms of its groups', () => {
    const text =
      '<svg xmlns="http://www.w3.org/2000/svg"><g transform="translate(100 50)"><circle r="40" cx="10" cy="0" transform="scale(2)"/></g></svg>'
    const [circle] = readSvg(text)
    let off = 0
    circle!.points.forEach((_, i) => {
      for (let k = 0; k < 8; k++) {
        const [x, y] = at(circle!, i, k / 8)
        off = Math.max(off, Math.abs(Math.hypot(x - 120, y - 50) - 80))
      }
    })
    expect(off).toBeLessThan(80 * 3e-4)
    expect(circle!.isClosed).toBe(true)
  })

  it('basic shapes are their equivalent paths; what is defined for use elsewhere is passed over', () => {
    const outlines = readSvg(
      '<svg><defs><rect width="9" height="9"/></defs><rect x="1" y="2" width="10" height="20"/><polygon points="0,0 10,0 5,8"/><line x1="0" y1="0" x2="4" y2="4"/><script>alert(1)</script></svg>',
    )
    expect(outlines.map(({ points, isClosed }) => [points.length, isClosed])).toEqual([[4, true], [3, true], [2, false]]) // prettier-ignore
  })

  it('a last point on the first is the first, with the tangent it arrived by', () => {
    const [outline] = readSvg('M0 0 C 0 -20 40 -20 40 0 C 40 20 0 20 0 0 Z')
    expect(outline!.points).toHaveLength(2)
    expect([outline!.points[0]!.inX, outline!.points[0]!.inY]).toEqual([0, 20])
  })

  it('what is no SVG, broken, empty or huge is refused with the reason', () => {
    const codeOf = (text: string) => {
      try {
        readSvg(text)
        return null
      } catch (error) {
        return error instanceof FormatError ? error.code : String(error)
      }
    }
    expect(codeOf('hello')).toBe('not-svg')
    expect(codeOf('<svg><path d="M0 0 L"></svg')).toBe('not-svg')
    expect(codeOf('<svg><text>nothing</text></svg>')).toBe('empty')
    expect(codeOf('M0 0 X 3')).toBe('not-svg')
    expect(codeOf(`<svg>${' '.repeat(4_100_000)}</svg>`)).toBe('too-large')
    expect(codeOf(`M0 0${' l1 1'.repeat(5000)}`)).toBe('too-large')
  })
})
