import { outlineKeys, channelOf } from '@tender-lasso/core/document'
import { rationalPoint } from '../spline'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { applyBatch, patchesTakenBack, type EditBatch } from './batches'
import { batchFromJson } from './batchJson'
import {
  cornersSet,
  depthsOfNewParts,
  fieldSet,
  keyAdded,
  keyDeleted,
  objectAdded,
  objectsDeleted,
  partReordered,
  partStepped,
  pointInserted,
  valuesKeyed,
  pointsRemoved,
  constantSet,
} from '../edits'
import { decodeObjects, encodeObject, encodeObjects } from './binary'
import { findObject, newId, POINT_STRIDE, type RotoDocument, type Part } from './objects'
import type { Key } from './channel'
import { isConflict, type Patch } from './patches'
import { outlineAt, partsByDepth, shapePointsAt } from '../evaluation'
import { replicaOf, withCommitted, withLocalEdit, withoutPending, type CommittedBatch, type Replica } from './replica'
import { sameValue } from './sameValue'
import { undoStacks } from './undo'
import {
  documentOf,
  testBatch,
  testPart,
  testShape,
  testShot,
  testSubject,
  testTrack,
  withPatches,
} from './testDocuments'
import { numberBetween } from '../testing/numberBetween'

function sameDocument(a: RotoDocument, b: RotoDocument): boolean {
  return (
    a.objects.size === b.objects.size && [...a.objects].every(([id, object]) => sameValue(object, b.objects.get(id)))
  )
}

const start = documentOf([
  testShot,
  testSubject,
  testPart('coat', { depth: 1 }),
  testPart('hat', { depth: 2, parentId: 'coat' }),
  testShape('outline', 'coat', [1001, 1020, 1040]),
  testShape('brim', 'hat', [1001]),
  testTrack('board'),
])

/** A random edit that an artist could make on this document, or null when it does not apply. */
function randomEdit(document: RotoDocument, kind: number, a: number, b: number): Patch[] | null {
  const shapes = [...document.objects.values()].filter((o) => o.kind === 'shape')
  const parts = partsByDepth(document, 1001)
  const shape = shapes[Math.floor(a * shapes.length)]
  const part = parts[Math.floor(b * parts.length)]
  const frame = 1001 + Math.floor(b * 60)
  const patches = ((): Patch[] => {
    switch (kind) {
      case 0: {
        if (!shape) return []
        const values = shapePointsAt(shape, frame).slice()
        values[Math.floor(a * shape.pointIds.length) * POINT_STRIDE]! += 1 + b
        return valuesKeyed(channelOf(shape), frame, values)
      }
      case 1:
        return shape
          ? keyDeleted(channelOf(shape), outlineKeys(shape)[Math.floor(b * outlineKeys(shape).length)]!.time)
          : []
      case 2:
        return shape ? pointInserted(shape, Math.floor(b * shape.pointIds.length), 0.3).patches : []
      case 3:
        return shape
          ? pointsRemoved(shape, new Set([shape.pointIds[Math.floor(b * shape.pointIds.length)]!])).patches
          : []
      case 4:
        return shape ? constantSet(channelOf(shape, 'outerFeather'), [b * 5]) : []
      case 5:
        return part ? [fieldSet(part, 'name', `part ${Math.floor(a * 100)}`)] : []
      case 6:
        return part ? partReordered(document, part.id, Math.floor(a * parts.length), 1001) : []
      case 7:
        return part ? objectsDeleted(document, [part.id]) : []
      case 8:
        return part ? [objectAdded(testShape(newId(), part.id, [1001, frame + 1], 4))] : []
      case 9:
        return shape ? cornersSet(shape, new Set([shape.pointIds[0]!]), a > 0.5) : []
      default:
        return shape ? keyAdded(channelOf(shape), frame) : []
    }
  })()
  return patches.length ? patches : null
}

const unit = numberBetween(0, 0.999)
const edits = fc.array(fc.tuple(fc.integer({ min: 0, max: 10 }), unit, unit), { minLength: 1, maxLength: 25 })

describe('edits', () => {
  it('applied and then undone give the identical document', () => {
    fc.assert(
      fc.property(edits, (sequence) => {
        let document = start
        const done: EditBatch[] = []
        for (const [kind, a, b] of sequence) {
          const patches = randomEdit(document, kind, a, b)
          if (!patches) continue
          const edit = testBatch(patches)
          const next = applyBatch(document, edit)
          if (isConflict(next)) throw new Error(next.reason)
          document = next
          done.push(edit)
        }
        for (const edit of done.reverse()) document = withPatches(document, patchesTakenBack(edit))
        expect(sameDocument(document, start)).toBe(true)
      }),
      { numRuns: 150 },
    )
  })

  it('survive the wire: replay of the log from JSON equals the live document', () => {
    fc.assert(
      fc.property(edits, (sequence) => {
        let live = start
        let replayed = start
        for (const [kind, a, b] of sequence) {
          const patches = randomEdit(live, kind, a, b)
          if (!patches) continue
          live = withPatches(live, patches)
          const wire = JSON.stringify(patches, (_k, v: unknown) => (v instanceof Float64Array ? Array.from(v) : v))
          replayed = withPatches(replayed, JSON.parse(wire) as Patch[])
        }
        expect(sameDocument(live, replayed)).toBe(true)
        const bytes = encodeObjects([...live.objects.values()].map(encodeObject))
        expect(sameDocument(documentOf(decodeObjects(bytes)), live)).toBe(true)
      }),
      { numRuns: 80 },
    )
  })

  it('refuse what can fit no document, and broken references', () => {
    const coat = findObject(start, 'part', 'coat')!
    const bad = [{ kind: 'field', id: 'coat', field: 'pivot', before: coat.pivot, after: 'near' }] as Patch[]
    expect(() => applyBatch(start, testBatch(bad))).toThrow(expect.objectContaining({ code: 'invalid-patch' }))
    const cycle = applyBatch(start, testBatch([fieldSet(coat, 'parentId', 'hat')]))
    expect(isConflict(cycle) && cycle.reason).toContain('carry itself')
    const orphan = applyBatch(start, testBatch([{ kind: 'object', id: 'coat', before: coat, after: null }]))
    expect(isConflict(orphan)).toBe(true)
  })
})

/** The server's rule, without a database: a batch is committed once, when it fits the head; else set aside. */
class PlainLog {
  head = start
  log: CommittedBatch[] = []
  aside: EditBatch[] = []

  send(edit: EditBatch): 'committed' | 'set-aside' {
    const same = (other: EditBatch) => other.clientId === edit.clientId && other.clientSequence === edit.clientSequence
    if (this.log.some((entry) => same(entry.batch))) return 'committed'
    if (this.aside.some(same)) return 'set-aside'
    const next = applyBatch(this.head, edit)
    if (isConflict(next)) {
      this.aside.push(edit)
      return 'set-aside'
    }
    this.head = next
    this.log.push({ sequence: this.log.length + 1, batch: edit })
    return 'committed'
  }
}

describe('two artists on one shot', () => {
  it('with interleaved edits, deletes, undos and repeated sends end equal and lose nothing silently', () => {
    const step = fc.tuple(fc.nat(1), fc.integer({ min: 0, max: 13 }), unit, unit)
    fc.assert(
      fc.property(fc.array(step, { minLength: 5, maxLength: 40 }), (steps) => {
        const server = new PlainLog()
        const replicas: [Replica, Replica] = [replicaOf(start), replicaOf(start)]
        const made: EditBatch[] = []
        const counters = [0, 0]
        const flush = (who: 0 | 1, twice: boolean) => {
          for (const edit of replicas[who].pending) {
            const answer = server.send(edit)
            if (twice) expect(server.send(edit)).toBe(answer)
            if (answer === 'set-aside') replicas[who] = withoutPending(replicas[who], edit.batchId)
          }
          replicas[who] = withCommitted(replicas[who], server.log.slice(replicas[who].sequence))
        }
        for (const [who, kind, a, b] of steps as [0 | 1, number, number, number][]) {
          const author = `artist ${who}`
          if (kind === 11) flush(who, a > 0.5)
          else {
            let patches = kind < 11 ? randomEdit(replicas[who].live, kind, a, b) : null
            let undoes: string | null = null
            if (kind >= 12) {
              const own = [...server.log.map((entry) => entry.batch), ...replicas[who].pending]
              const top = undoStacks(own, author).undo.at(-1)
              if (top) {
                patches = patchesTakenBack(top)
                undoes = top.batchId
              }
            }
            if (!patches) continue
            const identity = { clientId: author, author, clientSequence: counters[who]!++, undoes }
            const edit = testBatch(patches, identity)
            const next = withLocalEdit(replicas[who], edit)
            if (next) {
              replicas[who] = next
              made.push(edit)
            }
          }
        }
        flush(0, false)
        flush(1, false)
        flush(0, false)
        expect(sameDocument(replicas[0].live, server.head)).toBe(true)
        expect(sameDocument(replicas[1].live, server.head)).toBe(true)
        const known = new Set([...server.log.map((e) => e.batch.batchId), ...server.aside.map((e) => e.batchId)])
        for (const edit of made) expect(known.has(edit.batchId)).toBe(true)
        expect(server.log.length + server.aside.length).toBe(known.size)
      }),
      { numRuns: 150 },
    )
  })

  it('cannot take the last two keys away between them: the second deletion is set aside', () => {
    const shape = findObject(start, 'shape', 'outline')!
    const server = new PlainLog()
    const removed = (author: string, key: Key, clientSequence: number) =>
      testBatch([{ kind: 'key', id: 'outline', time: key.time, before: key, after: null }], {
        clientId: author,
        author,
        clientSequence,
      })
    const answers = outlineKeys(shape).map((key, i) => server.send(removed(`artist ${i % 2}`, key, i)))
    expect(answers).toEqual([
      ...outlineKeys(shape)
        .slice(1)
        .map(() => 'committed'),
      'set-aside',
    ])
    expect(outlineKeys(findObject(server.head, 'shape', 'outline')!)).toEqual(outlineKeys(shape).slice(-1))
  })

  it('undo never takes back what somebody else has changed since', () => {
    const shape = findObject(start, 'shape', 'outline')!
    const mine = testBatch(constantSet(channelOf(shape, 'opacity'), [0.5]))
    const afterMine = withPatches(start, mine.patches)
    const afterTheirs = withPatches(
      afterMine,
      constantSet(channelOf(findObject(afterMine, 'shape', 'outline')!, 'opacity'), [0.2]),
    )
    expect(isConflict(applyBatch(afterTheirs, testBatch(patchesTakenBack(mine))))).toBe(true)
  })
})

describe('undo stacks from the log', () => {
  it('undo, redo and a new edit behave as people expect', () => {
    const entry = (batchId: string, undoes: string | null = null) => ({
      batchId,
      author: 'Ida',
      label: batchId,
      undoes,
    })
    const log = [entry('a'), entry('b'), entry('u1', 'b'), entry('r1', 'u1'), entry('u2', 'r1')]
    expect(undoStacks(log, 'Ida').undo.map((e) => e.batchId)).toEqual(['a'])
    expect(undoStacks([...log, entry('c')], 'Ida').redo).toEqual([])
    expect(undoStacks(log, 'Ola')).toEqual({ undo: [], redo: [] })
  })
})

describe('points on every key', () => {
  it('insertion leaves the outline the same at every time', () => {
    const shape = findObject(start, 'shape', 'outline')!
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 5 }), numberBetween(0.05, 0.95), unit, (i, t, at) => {
        const time = 1001 + at * 39
        const document = withPatches(start, pointInserted(shape, i, t).patches)
        const before = outlineAt(start, shape, time)
        const after = outlineAt(document, findObject(document, 'shape', 'outline')!, time)
        for (const u of [0.1, 0.5, 0.9]) {
          const p = rationalPoint(before, i, u * t)
          const q = rationalPoint(after, i, u)
          expect(Math.hypot(p[0] - q[0], p[1] - q[1])).toBeLessThan(1e-9)
        }
      }),
    )
  })

  it('removing an inserted point brings the outline back, and removal tells how far it went', () => {
    const shape = findObject(start, 'shape', 'outline')!
    const { patches, pointId } = pointInserted(shape, 2, 0.4)
    const withPoint = findObject(withPatches(start, patches), 'shape', 'outline')!
    const back = pointsRemoved(withPoint, new Set([pointId]))
    for (const { pixels } of back.deviations) expect(pixels).toBeLessThan(0.05)
    const far = pointsRemoved(shape, new Set(shape.pointIds.slice(0, 3)))
    expect(far.deviations[0]!.pixels).toBeGreaterThan(1)
    expect(pointsRemoved(shape, new Set(shape.pointIds.slice(0, 5))).patches).toEqual([])
  })
})

describe('batches of before', () => {
  it('schema version 1 had one key in a patch of values: it is lifted, and undone, as one of several', () => {
    const shape = findObject(start, 'shape', 'outline')!
    const [x, y] = outlineKeys(shape)[0]!.values
    const patches = [{ kind: 'values', id: 'outline', time: 1001, indices: [0, 1], before: [x, y], after: [5, 6] }]
    const old = batchFromJson({ ...testBatch([]), schemaVersion: 1, patches })
    expect(old.patches[0]).toMatchObject({ times: [1001] })
    const after = withPatches(start, old.patches)
    expect(Array.from(outlineKeys(findObject(after, 'shape', 'outline')!)[0]!.values.slice(0, 2))).toEqual([5, 6])
    expect(sameDocument(withPatches(after, patchesTakenBack(old)), start)).toBe(true)
  })
})

describe('depth of new Parts', () => {
  const deep = (id: string, depth: number, change: Partial<Part> = {}) => testPart(id, { depth, ...change })
  const placeOf = (...parts: Part[]) => {
    const document = documentOf([testShot, testSubject, ...parts])
    const made = deep('new', depthsOfNewParts(document).depth)
    return partsByDepth(documentOf([testShot, testSubject, ...parts, made]), 1001).map(({ id }) => id)
  }

  it('is in front of all, but behind what holds out and was told to stay in front, on whatever frame it is nearest', () => {
    expect(placeOf()).toEqual(['new'])
    expect(placeOf(deep('a', 0), deep('b', 1))).toEqual(['new', 'a', 'b'])
    expect(placeOf(deep('post', 0, { staysInFront: true }), deep('b', 1))).toEqual(['post', 'new', 'b'])
    // What holds nothing out hides nothing: it need not stay in front.
    expect(placeOf(deep('post', 0, { staysInFront: true, holdsOut: false }), deep('b', 1))).toEqual([
      'new',
      'post',
      'b',
    ])
    expect(placeOf(deep('a', 0), deep('post', 1, { staysInFront: true }), deep('b', 2))).toEqual([
      'a',
      'post',
      'new',
      'b',
    ])
    const keyed = deep('post', 0, {
      staysInFront: true,
      channels: {
        depth: {
          constant: Float64Array.of(0),
          keys: [{ time: 1010, interpolation: 'hold', values: Float64Array.of(5) }],
        },
      },
    })
    expect(placeOf(keyed, deep('b', 1), deep('c', 9))).toEqual(['post', 'b', 'new', 'c'])
  })

  it('one step nearer or farther changes places with the neighbour; beyond the ends there is none', () => {
    const document = documentOf([testShot, testSubject, deep('a', 0), deep('b', 1), deep('c', 2)])
    const order = (from: RotoDocument) => partsByDepth(from, 1001).map(({ id }) => id)
    expect(order(withPatches(document, partStepped(document, 'c', -1, 1001)!))).toEqual(['a', 'c', 'b'])
    expect(order(withPatches(document, partStepped(document, 'a', 1, 1001)!))).toEqual(['b', 'a', 'c'])
    expect(partStepped(document, 'a', -1, 1001)).toBeNull()
    expect(partStepped(document, 'c', 1, 1001)).toBeNull()
  })
})

describe('an edit of a setting', () => {
  it('leaves the keys of the object the same objects, so that what was worked out from them stays known', () => {
    const shape = testShape('round', 'part', [1001, 1010])
    const before = documentOf([testShot, testSubject, testPart('part'), shape])
    for (const patch of [
      { kind: 'constant', id: 'round', channel: 'grow', before: null, after: [3] },
      { kind: 'field', id: 'round', field: 'name', before: 'round', after: 'square' },
    ] as Patch[]) {
      const after = findObject(withPatches(before, [patch]), 'shape', 'round')!
      expect(after).not.toBe(shape)
      outlineKeys(after).forEach((key, i) => expect(key).toBe(outlineKeys(shape)[i]))
    }
  })
})
