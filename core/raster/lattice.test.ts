import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { translation } from '../geometry'
import { homogeneousOutline } from '../spline'
import { shutterTime, type Shutter } from '../timing'
import { rampAt, type EdgeProfile } from './feather'
import { neededSubTimes } from './lattice'
import { renderMattes } from './renderMattes'
import { PartBoundaries, type ScenePart } from './scene'
import { numberBetween } from '../testing/numberBetween'

/**
 * Mattes that a compositor adds up: at every sub-time Parts that cut one another are disjoint (Porter & Duff 1984), so
 * their means may pass one only when they are taken at different sub-times.
 */
const [width, height] = [72, 56]
const box = { left: 0, top: 0, right: width, bottom: height }
const PLAIN: EdgeProfile = { innerFeather: 0, outerFeather: 0, grow: 0 }

interface Mover {
  corners: number[]
  /** Plate pixels a frame, of all corners, or of each. */
  velocities: [number, number][]
  shutter: Shutter
  edge: EdgeProfile
}

function partOf(id: string, mover: Mover, holdsOut: boolean, scale = 1): ScenePart {
  const { corners, velocities, shutter, edge } = mover
  const outlinesAt = (u: number) => {
    const time = shutterTime(0, shutter, u)
    const points = new Float64Array(corners.length * 5)
    for (let i = 0; i < corners.length; i += 2) {
      const [vx, vy] = velocities[i / 2 < velocities.length ? i / 2 : 0]!
      points[i * 5] = (corners[i]! + vx * time) * scale
      points[i * 5 + 1] = (corners[i + 1]! + vy * time) * scale
    }
    return [homogeneousOutline(points, 10, translation(0, 0))]
  }
  const scaled = { innerFeather: edge.innerFeather * scale, outerFeather: edge.outerFeather * scale, grow: edge.grow * scale } // prettier-ignore
  return { id, holdsOut, groups: [{ edge: scaled, opacity: 1, outlinesAt }] }
}

const rectangle = (left: number, top: number, right: number, bottom: number) =>
  [left, top, right, top, right, bottom, left, bottom] // prettier-ignore

const speed = numberBetween(-40, 40)
const movers = fc.record<Mover>({
  // Big enough to overlap: a frame's figure, not scattered splinters.
  corners: fc.tuple(numberBetween(-10, 30), numberBetween(-10, 20), numberBetween(40, 80), numberBetween(30, 60), numberBetween(-9, 9))
    .map(([left, top, right, bottom, lean]) => [left + lean, top, right + lean, top + lean, right - lean, bottom, left - lean, bottom - lean]),
  velocities: fc.array(fc.tuple(speed, speed), { minLength: 1, maxLength: 1 }),
  shutter: fc.constantFrom({ angle: 180, phase: -90 }, { angle: 360, phase: -180 }, { angle: 60, phase: 0 }, { angle: 0, phase: 0 }),
  edge: fc.constantFrom<EdgeProfile>(PLAIN, { innerFeather: 2, outerFeather: 3, grow: 0 }, { innerFeather: 0, outerFeather: 1, grow: 1.5 }),
}) // prettier-ignore

describe('one lattice of sub-times for Parts that touch', () => {
  it('two rectangles that move 4 and 20 px, each rendered with holdouts by itself, add up to at most one', () => {
    const shutter = { angle: 180, phase: -90 }
    const front = { corners: rectangle(10.3, 5, 34.3, 40), velocities: [[8, 0]], shutter, edge: PLAIN } as Mover
    const behind = { corners: rectangle(20, 12, 60, 50), velocities: [[40, 0]], shutter, edge: PLAIN } as Mover
    const scene = { parts: [partOf('front', front, true), partOf('behind', behind, true)] }
    const render = (partId: string) =>
      renderMattes(scene, [{ partId, withHoldouts: true }], { box, motionBlur: true })![0]!
    expect(largestSum([render('front'), render('behind')])).toBeLessThanOrEqual(1 + 1e-5)
  })

  it('in any scene, whatever is asked for together and whichever stretch of the picture', () => {
    fc.assert(
      fc.property(
        fc.array(movers, { minLength: 2, maxLength: 5 }),
        fc.array(fc.boolean(), { minLength: 5, maxLength: 5 }),
        fc.integer({ min: 1, max: height - 1 }),
        (all, alone, cut) => {
          const parts = all.map((mover, i) => partOf(`p${i}`, mover, i + 1 < all.length))
          const scene = { parts }
          const requests = parts.map(({ id }) => ({ partId: id, withHoldouts: true }))
          const groups = [requests.filter((_, i) => !alone[i]), ...requests.filter((_, i) => alone[i]).map((r) => [r])]
          const mattes = groups
            .filter((group) => group.length > 0)
            .flatMap((group, g) => {
              // One request in the whole picture, the next in two stretches of it.
              if (g % 2 === 0) return renderMattes(scene, group, { box, motionBlur: true })!
              const [upper, lower] = [{ ...box, bottom: cut }, { ...box, top: cut }].map((stretch) => renderMattes(scene, group, { box: stretch, motionBlur: true })!) // prettier-ignore
              return upper!.map((values, r) => Float32Array.from([...values, ...lower![r]!]))
            })
          expect(largestSum(mattes)).toBeLessThanOrEqual(1 + 1e-5)
        },
      ),
      { numRuns: 60, seed: 14, endOnFailure: true },
    )
  })

  it('Parts that tile add up to one: the line between them moves alike, their far sides do not', () => {
    const shutter = { angle: 180, phase: -90 }
    const left = { corners: rectangle(-30, -40, 30.3, 100), velocities: [[-30, 0], [6, 0], [6, 0], [-30, 0]], shutter, edge: PLAIN } as Mover // prettier-ignore
    const middle = { corners: rectangle(30.3, -40, 44.6, 100), velocities: [[6, 0], [2, 0], [2, 0], [6, 0]], shutter, edge: PLAIN } as Mover // prettier-ignore
    const right = { corners: rectangle(44.6, -40, 110, 100), velocities: [[2, 0], [0, 0], [0, 0], [2, 0]], shutter, edge: PLAIN } as Mover // prettier-ignore
    const scene = { parts: [partOf('left', left, false), partOf('middle', middle, false), partOf('right', right, false)] } // prettier-ignore
    const mattes = ['left', 'middle', 'right'].map(
      (partId) => renderMattes(scene, [{ partId, withHoldouts: true }], { box, motionBlur: true })![0]!,
    )
    let worst = 0
    for (let p = 0; p < width * height; p++) {
      worst = Math.max(worst, Math.abs(mattes.reduce((sum, matte) => sum + matte[p]!, 0) - 1))
    }
    expect(worst).toBeLessThan(1e-5)
  })

  it('a preview of half the size takes the sub-times of the hand-off', () => {
    const shutter = { angle: 360, phase: -180 }
    const fast = { corners: rectangle(20, 10, 44, 40), velocities: [[24, 0]], shutter, edge: PLAIN } as Mover
    const full = renderMattes({ parts: [partOf('a', fast, false)], scale: 1 }, [{ partId: 'a', withHoldouts: true }], { box, motionBlur: true })![0]! // prettier-ignore
    const small = { left: 0, top: 0, right: width / 2, bottom: height / 2 }
    const half = renderMattes({ parts: [partOf('a', fast, false, 0.5)], scale: 0.5 }, [{ partId: 'a', withHoldouts: true }], { box: small, motionBlur: true })![0]! // prettier-ignore
    for (let y = 0; y < small.bottom; y++) {
      for (let x = 0; x < small.right; x++) {
        const at = 2 * y * width + 2 * x
        const mean = (full[at]! + full[at + 1]! + full[at + width]! + full[at + width + 1]!) / 4
        expect(half[y * small.right + x]).toBeCloseTo(mean, 5)
      }
    }
  })
})

function largestSum(mattes: readonly Float32Array[]): number {
  let largest = 0
  for (let p = 0; p < mattes[0]!.length; p++) {
    largest = Math.max(largest, mattes.reduce((sum, matte) => sum + matte[p]!, 0)) // prettier-ignore
  }
  return largest
}

/** A Part moved to the right. */
const movedBy = (part: ScenePart, dx: number): ScenePart => ({
  ...part,
  groups: part.groups.map((group) => ({
    ...group,
    outlinesAt: (u) =>
      group
        .outlinesAt(u)
        .map((outline) => outline.map((value, i) => (i % 3 === 0 ? value + dx * outline[i + 2]! : value))),
  })),
})

describe('soft edges at fewer sub-times', () => {
  /** Half of the picture and more, its edge through the middle, upright to the motion. */
  const moving = (width: number, sweep: number, angle: number): ScenePart => {
    const [dx, dy] = [Math.cos(angle), Math.sin(angle)]
    const corner = (along: number, across: number) => [36 + along * dx - across * dy, 28 + along * dy + across * dx]
    const corners = [corner(0, -300), corner(0, 300), corner(-300, 300), corner(-300, -300)].flat()
    const edge = { innerFeather: 0.4 * width, outerFeather: 0.6 * width, grow: 0 }
    const shutter = { angle: 180, phase: -90 }
    return partOf('half', { corners, velocities: [[2 * sweep * dx, 2 * sweep * dy]], shutter, edge }, false)
  }

  it.each([
    [2, 12],
    [8, 15.5],
    [40, 15.5],
    [40, 60],
    [120, 40],
    [120, 130],
  ])('a ramp of %d px swept over %d px is the mean over the sweep within 1/255, at any angle', (ramp, sweep) => {
    for (const angle of [0, Math.PI / 2, 0.7]) {
      const scene = { parts: [moving(ramp, sweep, angle)] }
      const [alpha] = renderMattes(scene, [{ partId: 'half', withHoldouts: false }], { box, motionBlur: true })!
      for (let y = 0; y < height; y += 5) {
        for (let x = 0; x < width; x += 5) {
          const distance = (x + 0.5 - 36) * Math.cos(angle) + (y + 0.5 - 28) * Math.sin(angle)
          const steps = 2000
          let mean = 0
          for (let k = 0; k < steps; k++) mean += rampAt(distance - ((k + 0.5) / steps - 0.5) * sweep, 0.4 * ramp, 0.6 * ramp) / steps // prettier-ignore
          expect(Math.abs(alpha![y * width + x]! - mean)).toBeLessThan(1 / 255)
        }
      }
    }
  })

  it.each([0.4, 1.5, 3, 7.7, 15.5])(
    'of a hard level edge swept by %d px give what all of its way gives, to 1/255 (closed form)',
    (sweep) => {
      for (const off of [0, 0.13, 0.37, 0.5, 0.81]) {
        const scene = { parts: [movedBy(moving(0, sweep, 0), off)] }
        const [alpha] = renderMattes(scene, [{ partId: 'half', withHoldouts: false }], { box, motionBlur: true })!
        for (let x = 20; x < 52; x++) {
          // The integral of a ramp of width 1 over the way of its edge, whose antiderivative is a parabola between two lines.
          const area = (d: number) => (d <= -0.5 ? 0 : d >= 0.5 ? d : (d + 0.5) ** 2 / 2)
          const distance = 36 + off - (x + 0.5)
          const mean = (area(distance + sweep / 2) - area(distance - sweep / 2)) / sweep
          expect(Math.abs(alpha![28 * width + x]! - mean), `${off}, pixel ${x}`).toBeLessThan(1 / 255)
        }
      }
    },
  )

  it('are fewer the softer they are, and as many as hard ones need where they hardly are', () => {
    const needed = (ramp: number) => neededSubTimes(new PartBoundaries(moving(ramp, 15.5, 0), true), 1)
    // A corner of a hard edge's ramp is wrong by h^2 / (8 L) at most, with h = L / N: 1/340 here.
    const hard = Math.ceil(Math.sqrt((15.5 * 340) / 8))
    expect([0, 0.5, 8, 40, 120].map(needed)).toEqual([hard, hard, 15, 7, 4])
  })
})
