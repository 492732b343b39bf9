import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { twoBoneTurn, applyToPoint } from '../geometry'
import { allOf, findObject, patchesTakenBack, sameValue, type Part, type RotoDocument } from '../document'
import { areasAt, controlPlacesAt, depthOn, outlineAt, shapesOf, worldAt } from '../evaluation'
import { bonesOf, rigMade, RIG_PLANS, withGuesses } from './rig'
import { formChanged } from './change'
import { jointEnds } from './jointWidths'
import { limbCopied } from './limbCopy'
import { limbPosed } from './limbPosed'
import { limbOf, withEnd } from './limb'
import { limbPulled } from './inverseKinematics'
import { pivotOnPlate, poseTurned } from './pose'
import { bendSideOf } from './bendSide'
import { documentOf, testBatch, testPart, testShot, testSubject, withPatches } from '../document/testDocuments'
import { unionBoundary } from '../raster/union'
import { flattenOutline, rationalPoint } from '../spline'
import { numberBetween } from '../testing/numberBetween'

const figurePlan = RIG_PLANS.find(({ name }) => name === 'figure')!
const JOINTS: Record<string, [number, number]> = {
  'crown': [640, 80], 'neck': [640, 160], 'hips': [640, 340],
  'near shoulder': [610, 180], 'near elbow': [570, 260], 'near wrist': [600, 330], 'near fingertips': [610, 365],
  'far shoulder': [670, 180], 'far elbow': [700, 260], 'far wrist': [690, 340], 'far fingertips': [690, 375],
  'near hip': [622, 350], 'near knee': [615, 470], 'near ankle': [610, 590], 'near toes': [650, 605],
  'far hip': [658, 350], 'far knee': [670, 470], 'far ankle': [690, 585], 'far toes': [730, 595],
} // prettier-ignore

function rigged(
  parentId: string | null = null,
  start: RotoDocument = documentOf([testShot, testSubject]),
  joints: ReadonlyMap<string, [number, number]> = new Map(Object.entries(JOINTS)),
): RotoDocument {
  const place = { subjectId: testSubject.id, parentId, depth: 0, depthStep: 1, frame: 1001, shade: 0 }
  return withPatches(start, rigMade(start, figurePlan, joints, place).patches)
}

const figure = rigged()
const named = (document: RotoDocument, name: string): Part =>
  allOf(document, 'part').find((part) => part.name === name)!
const turned = (document: RotoDocument, name: string, frame: number, angle: number) =>
  withPatches(document, formChanged(named(document, name), frame, poseTurned(angle)))
const distance = (a: readonly number[], b: readonly number[]) => Math.hypot(a[0]! - b[0]!, a[1]! - b[1]!)

describe('two bones (law of cosines)', () => {
  it('reach any target within their lengths, keep these and keep the side of the joint', () => {
    fc.assert(
      fc.property(numberBetween(20, 90), numberBetween(20, 90), numberBetween(-3, 3), numberBetween(-3, 3), numberBetween(0, 1), numberBetween(-3, 3),
        (a, b, first, bend, share, to) => {
          const joint = [a * Math.cos(first), a * Math.sin(first)] as const
          const end = [joint[0] + b * Math.cos(first + bend), joint[1] + b * Math.sin(first + bend)] as const
          const reach = Math.abs(a - b) + share * (a + b - Math.abs(a - b))
          const target = [reach * Math.cos(to), reach * Math.sin(to)] as const
          const { upper, lower } = twoBoneTurn([0, 0], joint, end, target)
          const newJoint = [a * Math.cos(first + upper), a * Math.sin(first + upper)]
          const newEnd = [newJoint[0]! + b * Math.cos(first + bend + lower), newJoint[1]! + b * Math.sin(first + bend + lower)]
          expect(distance(newEnd, target)).toBeLessThan(1e-5)
          // The inner angle is that of the triangle with these three sides.
          const cosine = (a * a + b * b - reach * reach) / (2 * a * b)
          const inner = Math.PI - Math.abs(Math.atan2(Math.sin(bend + lower - upper), Math.cos(bend + lower - upper)))
          expect(Math.cos(inner)).toBeCloseTo(cosine, 6)
          const sideOf = (x: number) => Math.sign(Math.round(Math.sin(x) * 1e6))
          if (sideOf(bend) && sideOf(bend + lower - upper)) expect(sideOf(bend + lower - upper)).toBe(sideOf(bend))
        }),
    ) // prettier-ignore
  })
})

describe('a figure from its joints', () => {
  it('has a Part for each bone, pinned where its joint was clicked, with outlines that overlap at the joints', () => {
    expect(allOf(figure, 'part').map(({ name }) => name)).toEqual(figurePlan.bones.map(({ name }) => name))
    for (const { name, from, to } of figurePlan.bones) {
      const part = named(figure, name)
      expect(distance(pivotOnPlate(figure, part, 1001), JOINTS[from]!)).toBeLessThan(1e-9)
      expect(part.pin?.to === 'parent' || part.name === 'torso').toBe(true)
      // Both joints lie well inside: what is turned about them leaves no gap.
      const area = flattenOutline(outlineAt(figure, shapesOf(figure, part.id)[0]!, 1001))
      const least = Math.min(...[from, to].flatMap((joint) => nearest(area, JOINTS[joint]!)))
      const length = distance(JOINTS[from]!, JOINTS[to]!)
      expect(least / length, name).toBeGreaterThan(0.08)
    }
    const depth = [...allOf(figure, 'part')].sort((a, b) => depthOn(a, 1001) - depthOn(b, 1001)).map(({ name }) => name)
    expect([depth[0], depth.at(-1)]).toEqual(['near hand', 'far upper arm'])
  })

  it('with the near limbs alone gets the far ones as mirror images about its hips', () => {
    const near = new Map(Object.entries(JOINTS).filter(([name]) => !name.startsWith('far ')))
    const whole = withGuesses(figurePlan, near)
    expect(whole.size).toBe(figurePlan.joints.length)
    expect(whole.get('far elbow')).toEqual([2 * 640 - 570, 260])
    // Where any far joint was placed, nothing is guessed; a limb has no far side.
    const some = new Map([...near, ['far hip', [658, 350] as [number, number]]])
    expect(withGuesses(figurePlan, some)).toBe(some)
    expect(
      withGuesses(
        RIG_PLANS.find(({ name }) => name === 'arm')!,
        new Map([['shoulder', [1, 2]]]),
      ).size,
    ).toBe(1)
  })

  it('from seven joints guesses where its limbs begin and end, feet to the side where the knee is bent', () => {
    const quick = RIG_PLANS.find(({ name }) => name === 'quick figure')!
    const places = withGuesses(quick, new Map(quick.joints.map((name) => [name, JOINTS[name]!])))
    expect([...places.keys()].sort()).toEqual([...figurePlan.joints].sort())
    expect(places.get('near shoulder')).toEqual([640, 178])
    expect(places.get('near fingertips')).toEqual([expect.closeTo(612, 9), expect.closeTo(358, 9)])
    // The knee stands to the left of the way from hips to ankle or to the right of it: there the toes are.
    const toesOf = (kneeX: number) => {
      const bent = new Map(quick.joints.map((name) => [name, JOINTS[name]!] as const)).set('near knee', [kneeX, 470])
      const all = withGuesses(quick, bent)
      return all.get('near toes')![0] - all.get('near ankle')![0]
    }
    expect([Math.sign(toesOf(560)), Math.sign(toesOf(690))]).toEqual([-1, 1])
    expect(bonesOf(quick, places)).toHaveLength(figurePlan.bones.length)
    // Joints that were passed over are not guessed from.
    expect(withGuesses(quick, new Map([['neck', [1, 2]]])).size).toBe(1)
  })

  it('looks the same on an anamorphic plate: each outline and each width, squeezed', () => {
    const squeezed = new Map(Object.entries(JOINTS).map(([name, [x, y]]) => [name, [x / 2, y] as [number, number]]))
    const wide = documentOf([{ ...testShot, pixelAspect: 2 }, testSubject])
    const there = rigged(null, wide, squeezed)
    const here = rigged()
    for (const part of allOf(here, 'part')) {
      const twin = allOf(there, 'part').find(({ name }) => name === part.name)!
      const [own, other] = [shapesOf(here, part.id), shapesOf(there, twin.id)]
      const places = controlPlacesAt(there, other[0]!, 1001).map((value, i) => (i % 2 === 0 ? 2 * value : value))
      expect([...places]).toEqual(
        [...controlPlacesAt(here, own[0]!, 1001)].map((value) => expect.closeTo(value, 9) as number),
      )
      const [half, halfThere] = [jointEnds(here, own, 1001), jointEnds(there, other, 1001)].map((ends) => ends.map((end) => end.half)) // prettier-ignore
      expect(halfThere).toEqual(half!.map((value) => expect.closeTo(value, 9) as number))
    }
  })

  it('is one piece without a hole at its joints, however its limbs are turned', () => {
    fc.assert(
      fc.property(numberBetween(-1.5, 1.5), numberBetween(-1.5, 1.5), (a, b) => {
        const posed = turned(turned(figure, 'near forearm', 1001, a), 'near hand', 1001, b)
        const arm = ['near upper arm', 'near forearm', 'near hand'].map((name) => named(posed, name))
        const areas = arm.flatMap(({ id }) => shapesOf(posed, id).flatMap((shape) => areasAt(posed, shape, 1001)))
        const pieces = unionBoundary(areas.map((area) => flattenOutline(area)))
        // One boundary that goes once round: the turns of its directions add up to one revolution.
        let winding = 0
        for (let i = 0; i < pieces.length; i += 4) {
          const [x, y] = pivotOnPlate(posed, arm[1]!, 1001)
          const from = Math.atan2(pieces[i + 1]! - y, pieces[i]! - x)
          const to = Math.atan2(pieces[i + 3]! - y, pieces[i + 2]! - x)
          winding += Math.atan2(Math.sin(to - from), Math.cos(to - from))
        }
        expect(Math.abs(winding)).toBeCloseTo(2 * Math.PI, 3)
      }),
      { numRuns: 25 },
    )
  })

  it('a limb under a Part that has moved is placed where its joints were clicked', () => {
    const torso = { ...testPart('body', { pivot: [500, 300] }), keys: [{ time: 1001, interpolation: 'smooth' as const, values: Float64Array.of(30, -12, 0.7, 0.2, 0.2) }] } // prettier-ignore
    const start = documentOf([testShot, testSubject, torso])
    const hung = rigged('body', start)
    for (const { name, from } of figurePlan.bones) {
      expect(distance(pivotOnPlate(hung, named(hung, name), 1001), JOINTS[from]!), name).toBeLessThan(1e-9)
    }
  })
})

describe('pull', () => {
  const pull = (document: RotoDocument, name: string, target: [number, number], stretches = false) => {
    const limb = limbOf(document, named(document, name))!
    const grabbed = pivotOnPlate(document, named(document, name), 1010)
    return withPatches(document, limbPulled(document, limb, 1010, grabbed, target, stretches)!)
  }

  it('knows which two bones a Part ends', () => {
    const bones = (name: string) => {
      const limb = limbOf(figure, named(figure, name))
      return limb && [limb.upper.name, limb.lower.name, limb.end?.name ?? null]
    }
    expect(bones('near hand')).toEqual(['near upper arm', 'near forearm', 'near hand'])
    expect(bones('near forearm')).toEqual(['near upper arm', 'near forearm', null])
    expect(bones('torso')).toBeNull()
  })

  it('brings the wrist to the pointer, bones as long as before, elbow on its side, shoulder where it was', () => {
    fc.assert(
      fc.property(
        numberBetween(0, 2 * Math.PI),
        numberBetween(0.25, 0.97),
        numberBetween(-1, 1),
        (way, share, lean) => {
          const leaning = turned(figure, 'torso', 1010, lean)
          const [shoulder, elbow, wrist] = ['near upper arm', 'near forearm', 'near hand'].map((name) =>
            pivotOnPlate(leaning, named(leaning, name), 1010),
          ) as [P, P, P]
          const [a, b] = [distance(shoulder, elbow), distance(elbow, wrist)]
          const reach = share * (a + b)
          const target: P = [shoulder[0] + reach * Math.cos(way), shoulder[1] + reach * Math.sin(way)]
          const after = pull(leaning, 'near hand', target)
          const [s, e, w] = ['near upper arm', 'near forearm', 'near hand'].map((name) =>
            pivotOnPlate(after, named(after, name), 1010),
          ) as [P, P, P]
          expect(distance(w, target)).toBeLessThan(1e-6)
          expect(distance(s, shoulder)).toBeLessThan(1e-9)
          expect([distance(s, e), distance(e, w)]).toEqual([expect.closeTo(a, 6), expect.closeTo(b, 6)])
          const side = (p: P, q: P, r: P) => Math.sign((q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0]))
          expect(side(s, e, w)).toBe(side(shoulder, elbow, wrist))
        },
      ),
    )
  })

  it('with bones that may stretch keeps the bend of the arm: all of it turns and grows about the shoulder', () => {
    fc.assert(
      fc.property(numberBetween(0, 2 * Math.PI), numberBetween(0.4, 1.8), (way, share) => {
        const places = (of: RotoDocument) =>
          ['near upper arm', 'near forearm', 'near hand'].map((name) => pivotOnPlate(of, named(of, name), 1010)) as [P, P, P]
        const [shoulder, elbow, wrist] = places(figure)
        const reach = share * distance(shoulder, wrist)
        const target: P = [shoulder[0] + reach * Math.cos(way), shoulder[1] + reach * Math.sin(way)]
        const [s, e, w] = places(pull(figure, 'near hand', target, true))
        expect([distance(s, shoulder), distance(w, target)].every((far) => far < 1e-6)).toBe(true)
        expect(distance(s, e)).toBeCloseTo(share * distance(shoulder, elbow), 5)
        expect(distance(e, w)).toBeCloseTo(share * distance(elbow, wrist), 5)
      }),
      { numRuns: 40 },
    ) // prettier-ignore
  })

  it('out of reach stretches the arm out straight, and grows it only when that is allowed', () => {
    const shoulder = pivotOnPlate(figure, named(figure, 'near upper arm'), 1010)
    const target: P = [shoulder[0] - 400, shoulder[1] + 10]
    const straight = pull(figure, 'near hand', target)
    const length =
      distance(JOINTS['near shoulder']!, JOINTS['near elbow']!) + distance(JOINTS['near elbow']!, JOINTS['near wrist']!)
    const wrist = pivotOnPlate(straight, named(straight, 'near hand'), 1010)
    expect(distance(shoulder, wrist)).toBeCloseTo(length, 6)
    const grown = pull(figure, 'near hand', target, true)
    expect(distance(pivotOnPlate(grown, named(grown, 'near hand'), 1010), target)).toBeLessThan(1e-6)
    // The hand on it keeps its size.
    const world = worldAt(grown, named(grown, 'near hand'), 1010)
    expect(Math.sqrt(world[0]! * world[4]! - world[1]! * world[3]!)).toBeCloseTo(1, 9)
  })

  it('meets the pointer in anamorphic pixels and under uneven scale, where turns are no longer turns', () => {
    const wide = documentOf(
      [...figure.objects.values()].map((object) => (object.kind === 'shot' ? { ...object, pixelAspect: 2 } : object)),
    )
    const uneven = withPatches(wide, formChanged(named(wide, 'near upper arm'), 1010, poseTurned(0.4, 1.3, 0.9)))
    for (const document of [wide, uneven]) {
      const target: P = [590, 300]
      const after = pull(document, 'near hand', target)
      expect(distance(pivotOnPlate(after, named(after, 'near hand'), 1010), target)).toBeLessThan(1e-4)
    }
  })

  it('is one edit that undo takes back', () => {
    const limb = limbOf(figure, named(figure, 'near hand'))!
    const batch = testBatch(limbPulled(figure, limb, 1010, [0, 0], [580, 300], false)!)
    const back = withPatches(withPatches(figure, batch.patches), patchesTakenBack(batch))
    expect(sameValue(named(back, 'near forearm'), named(figure, 'near forearm'))).toBe(true)
  })
})

describe('bend', () => {
  const ARM = ['near upper arm', 'near forearm', 'near hand']
  const placesOf = (document: RotoDocument) =>
    ARM.map((name) => pivotOnPlate(document, named(document, name), 1010)) as [P, P, P]
  const bend = (document: RotoDocument, target: P, stretches: boolean) => {
    const limb = withEnd(document, limbOf(document, named(document, 'near forearm'))!)!
    return withPatches(document, limbPosed(document, limb, 1010, target, stretches)!)
  }

  it('takes the elbow to its mirror image across the arm, bones as long as before, shoulder and wrist where they were', () => {
    fc.assert(
      fc.property(numberBetween(-1, 1), numberBetween(0.3, 2.5), (lean, angle) => {
        const leaning = turned(turned(figure, 'torso', 1010, lean), 'near forearm', 1010, -angle)
        const [shoulder, elbow, wrist] = placesOf(leaning)
        const image = mirrored(elbow, shoulder, wrist)
        const [s, e, w] = placesOf(bend(leaning, image, false))
        expect([distance(s, shoulder), distance(e, image), distance(w, wrist)].every((far) => far < 1e-6)).toBe(true)
        // On its own side it stays.
        expect(bend(leaning, [elbow[0] + 0.1 * (elbow[0] - image[0]), elbow[1] + 0.1 * (elbow[1] - image[1])], false)).toBe(leaning) // prettier-ignore
      }),
    )
  })

  it('with bones that stretch brings the elbow to the pointer; the wrist stays, the hand keeps its size', () => {
    const wide = documentOf(
      [...figure.objects.values()].map((object) => (object.kind === 'shot' ? { ...object, pixelAspect: 2 } : object)),
    )
    const uneven = withPatches(figure, formChanged(named(figure, 'near upper arm'), 1010, poseTurned(0.2, 1.2, 0.9)))
    for (const document of [figure, wide, uneven]) {
      const [shoulder, , wrist] = placesOf(document)
      const target: P = [552, 275]
      const after = bend(document, target, true)
      const [s, e, w] = placesOf(after)
      expect([distance(s, shoulder), distance(e, target), distance(w, wrist)].every((far) => far < 1e-6)).toBe(true)
      const area = (of: RotoDocument) => {
        const world = worldAt(of, named(of, 'near hand'), 1010)
        return world[0]! * world[4]! - world[1]! * world[3]!
      }
      if (document !== uneven) expect(area(after)).toBeCloseTo(area(document), 9)
    }
  })

  it('needs something at the end of the limb, and leaves a locked one', () => {
    expect(withEnd(figure, limbOf(figure, named(figure, 'near hand'))!)!.end.name).toBe('near hand')
    expect(withEnd(figure, { upper: named(figure, 'torso'), lower: named(figure, 'head'), end: null })).toBeNull()
    const limb = withEnd(figure, limbOf(figure, named(figure, 'near hand'))!)!
    expect(limbPosed(figure, { ...limb, lower: { ...limb.lower, locked: true } }, 1010, [0, 0], true)).toBeNull()
  })
})

describe('a limb made once more', () => {
  const waving = turned(
    turned(turned(figure, 'near upper arm', 1001, 0.1), 'near upper arm', 1020, 1.2),
    'near forearm',
    1012,
    -0.8,
  )
  const limb = (document: RotoDocument, root: string) => {
    const part = findObject(document, 'part', root)!
    const children = allOf(document, 'part').filter(({ parentId }) => parentId === root)
    return [part, ...children]
  }

  it('goes the same way so many frames later', () => {
    const { patches, partId } = limbCopied(waving, named(waving, 'near upper arm'), { isMirrored: false, delay: 6 })
    const after = withPatches(waving, patches)
    expect(findObject(after, 'part', partId)!.name).toBe('near upper arm 2')
    for (const time of [1004, 1010.5, 1018]) {
      const first = worldAt(after, named(after, 'near upper arm'), time)
      const copy = worldAt(after, findObject(after, 'part', partId)!, time + 6)
      expect(Math.max(...first.map((value, i) => Math.abs(value - copy[i]!)))).toBeLessThan(1e-9)
    }
  })

  it('mirrored is the image of every point at every time, about an upright line through the pivot of the torso', () => {
    const { patches, partId } = limbCopied(waving, named(waving, 'near upper arm'), { isMirrored: true, delay: 0 })
    const after = withPatches(waving, patches)
    const copies = limb(after, partId)
    expect(copies.map(({ name }) => name)).toEqual(['far upper arm 2', 'far forearm 2'])
    let worst = 0
    for (const time of [1001, 1008.5, 1015, 1030]) {
      for (const [i, name] of ['near upper arm', 'near forearm'].entries()) {
        const [shape, image] = [named(after, name), copies[i]!].map(({ id }) => shapesOf(after, id)[0]!)
        const [a, b] = [outlineAt(after, shape!, time), outlineAt(after, image!, time)]
        for (let point = 0; point < 6; point++) {
          const [p, q] = [rationalPoint(a, point, 0.3), rationalPoint(b, point, 0.3)]
          worst = Math.max(worst, distance([2 * JOINTS.hips![0] - p[0], p[1]], q))
        }
      }
    }
    expect(worst).toBeLessThan(1e-9)
    const place = applyToPoint(worldAt(after, copies[1]!, 1010), ...copies[1]!.pivot)
    expect(place.every(Number.isFinite)).toBe(true)
  })
})

type P = [number, number]

/** A place on the other side of the line through two others. */
function mirrored(place: P, a: P, b: P): P {
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]]
  const u = ((place[0] - a[0]) * dx + (place[1] - a[1]) * dy) / (dx * dx + dy * dy)
  return [2 * (a[0] + u * dx) - place[0], 2 * (a[1] + u * dy) - place[1]]
}

/** Distance from a place to the nearest corner of a polygon. */
function nearest(polygon: Float64Array, [x, y]: readonly [number, number]): number {
  let least = Infinity
  for (let i = 0; i < polygon.length; i += 2) least = Math.min(least, Math.hypot(polygon[i]! - x, polygon[i + 1]! - y))
  return least
}

describe('the side to which a limb bends', () => {
  const tipOf = (document: RotoDocument, name: string) => pivotOnPlate(document, named(document, name), 1001)
  const limbAt = (document: RotoDocument, name: string) => limbOf(document, named(document, name))!
  const sideOf = (document: RotoDocument, foot: string) =>
    bendSideOf(document, limbAt(document, foot), 1001, tipOf(document, foot))
  /** The figure with both knees at places of their own. */
  const withKnees = (near: [number, number], far: [number, number]) => {
    const joints = new Map(Object.entries({ ...JOINTS, 'near knee': near, 'far knee': far }))
    const start = documentOf([testShot, testSubject])
    const place = { subjectId: testSubject.id, parentId: null, depth: 0, depthStep: 1, frame: 1001, shade: 0 }
    return withPatches(start, rigMade(start, figurePlan, joints, place).patches)
  }
  // On the straight way from hip to ankle: (622, 350) to (610, 590).
  const straight: [number, number] = [616, 470]

  it('is where the joint lies; a straight limb takes that of its fellow, on whichever side', () => {
    for (const x of [630, 710] as const) {
      const document = withKnees(straight, [x, 470])
      const [near, far] = [sideOf(document, 'near foot'), sideOf(document, 'far foot')]
      expect([near.isGuess, far.isGuess]).toEqual([true, false])
      expect(near.side).toBe(far.side)
      // Pulled up, the knee goes to that side: the joint is seen there.
      const foot = tipOf(document, 'near foot')
      const patches = limbPulled(document, limbAt(document, 'near foot'), 1001, foot, [foot[0], foot[1] - 60], false)!
      const pulled = sideOf(withPatches(document, patches), 'near foot')
      expect(pulled).toEqual({ side: far.side, isGuess: false })
      const over = limbPulled(document, limbAt(document, 'near foot'), 1001, foot, [foot[0], foot[1] - 60], false, undefined, far.side === 1 ? -1 : 1)! // prettier-ignore
      expect(sideOf(withPatches(document, over), 'near foot').side).toBe(-far.side)
    }
  })
})
