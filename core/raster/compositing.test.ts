import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { identity } from '../geometry'
import { homogeneousOutline } from '../spline'
import { renderFittedMattes, renderMattes } from './renderMattes'
import type { EdgeProfile } from './feather'
import type { ScenePart } from './scene'
import { numberBetween } from '../testing/numberBetween'

/**
 * Porter & Duff, "Compositing Digital Images" (SIGGRAPH 1984), table of operators, and W3C Compositing and Blending
 * Level 1: coverage of A out B is A (1 - B), of A over B is A + B (1 - A), of A plus B is A + B.
 */
const box = { left: 0, top: 0, right: 48, bottom: 48 }
const coordinate = numberBetween(2, 46)
const corners = fc.array(coordinate, { minLength: 6, maxLength: 10 }).map((all) => all.slice(0, all.length & ~1))
const edges = fc.constantFrom<EdgeProfile>(
  { innerFeather: 0, outerFeather: 0, grow: 0 },
  { innerFeather: 3, outerFeather: 4, grow: -0.5 },
)

function part(id: string, points: number[], edge: EdgeProfile, holdsOut: boolean): ScenePart {
  const values = new Float64Array(points.length * 5)
  points.forEach((value, i) => (values[(i >> 1) * 10 + (i & 1)] = value))
  return {
    id,
    holdsOut,
    groups: [{ edge, opacity: 1, outlinesAt: () => [homogeneousOutline(values, 10, identity())] }],
  }
}

describe('mattes put together by a compositor', () => {
  it('what is held out is the behind out the front, and front plus that is front over behind, in every pixel', () => {
    fc.assert(
      fc.property(corners, corners, edges, edges, (a, b, edgeA, edgeB) => {
        const scene = { parts: [part('front', a, edgeA, true), part('behind', b, edgeB, false)] }
        const [front, behind, heldOut] = renderMattes(
          scene,
          [
            { partId: 'front', withHoldouts: true },
            { partId: 'behind', withHoldouts: false },
            { partId: 'behind', withHoldouts: true },
          ],
          { box, motionBlur: false },
        )!
        let [worstOut, worstOver] = [0, 0]
        for (let p = 0; p < front!.length; p++) {
          const [f, g] = [front![p]!, behind![p]!]
          worstOut = Math.max(worstOut, Math.abs(heldOut![p]! - g * (1 - f)))
          worstOver = Math.max(worstOver, Math.abs(f + heldOut![p]! - (f + g * (1 - f))))
        }
        expect(worstOut).toBeLessThan(2e-6)
        expect(worstOver).toBeLessThan(2e-6)
      }),
      { numRuns: 60, endOnFailure: true },
    )
  })

  it('what is spared is as if nothing stood in front of it, and what else is behind is cut as ever', () => {
    const [left, right] = [[4, 4, 40, 6, 20, 40], [10, 8, 44, 20, 12, 44]] // prettier-ignore
    const plain = { innerFeather: 2, outerFeather: 2, grow: 0 }
    const front = { ...part('front', left!, plain, true), spares: ['spared'] }
    const scene = { parts: [front, part('spared', right!, plain, false), part('cut', right!, plain, false)] }
    const matte = (partId: string, withHoldouts: boolean) =>
      renderMattes(scene, [{ partId, withHoldouts }], { box, motionBlur: false })![0]!
    expect(matte('spared', true)).toEqual(matte('spared', false))
    const [whole, inFront] = [matte('cut', false), matte('front', false)]
    matte('cut', true).forEach((alpha, i) => expect(Math.abs(alpha - whole[i]! * (1 - inFront[i]!))).toBeLessThan(2e-6))
  })

  it('a picture laid over itself by its own held-out mattes is the picture again wherever something covers', () => {
    const scene = {
      parts: [
        part('hat', [10, 6, 30, 8, 26, 22, 12, 20], { innerFeather: 1, outerFeather: 2, grow: 0 }, true),
        part('head', [8, 14, 34, 12, 36, 40, 6, 42], { innerFeather: 0, outerFeather: 0, grow: 0 }, true),
        part('coat', [0, 30, 48, 28, 48, 48, 0, 48], { innerFeather: 0, outerFeather: 3, grow: 0 }, true),
      ],
    }
    const mattes = renderMattes(
      scene,
      scene.parts.map(({ id }) => ({ partId: id, withHoldouts: true })),
      { box, motionBlur: false },
    )!
    const alone = renderMattes(
      scene,
      scene.parts.map(({ id }) => ({ partId: id, withHoldouts: false })),
      { box, motionBlur: false },
    )!
    let worst = 0
    for (let p = 0; p < mattes[0]!.length; p++) {
      // Each layer premultiplied by its matte and added up: the ground shows through what nothing covers.
      const sum = mattes.reduce((total, matte) => total + matte[p]!, 0)
      const open = alone.reduce((left, matte) => left * (1 - matte[p]!), 1)
      worst = Math.max(worst, Math.abs(sum + open - 1))
    }
    expect(worst).toBeLessThan(3e-6)
  })

  it('is the same on the pixels a Part can touch as on all, whatever was in the room before, and bare elsewhere', () => {
    fc.assert(
      fc.property(corners, corners, edges, edges, (a, b, edgeA, edgeB) => {
        const scene = { parts: [part('front', a, edgeA, true), part('behind', b, edgeB, false)] }
        const requests = ['front', 'behind', 'gone'].map((partId) => ({ partId, withHoldouts: true }))
        const inner = { left: 8, top: 5, right: 37, bottom: 41 }
        const whole = renderMattes(scene, requests, { box, motionBlur: false })!
        const used = requests.map(() => new Float32Array(2000).fill(0.7))
        const fitted = renderFittedMattes(scene, requests, { box: inner, motionBlur: false, reuse: used })!
        let differences = 0
        fitted.forEach(({ box: own, alpha }, r) => {
          expect(alpha.length).toBe((own.right - own.left) * (own.bottom - own.top))
          for (let y = inner.top; y < inner.bottom; y++) {
            for (let x = inner.left; x < inner.right; x++) {
              const isIn = x >= own.left && x < own.right && y >= own.top && y < own.bottom
              const value = isIn ? alpha[(y - own.top) * (own.right - own.left) + x - own.left]! : 0
              differences += Number(
                Math.abs(value - whole[r]![(y - box.top) * (box.right - box.left) + x - box.left]!) > 2e-6,
              )
            }
          }
        })
        expect([differences, fitted[2]!.alpha.length]).toEqual([0, 0])
      }),
      { numRuns: 40, endOnFailure: true },
    )
  })
})
