import { outlineKeys } from '@tender-lasso/core/document'
import { describe, expect, it } from 'vitest'
import { applyBatch, type EditBatch } from './batches'
import { BOUNDS } from './bounds'
import { objectAdded, objectsDeleted } from '../edits'
import { findObject, type DocumentObject } from './objects'
import { isConflict, type Patch } from './patches'
import { documentOf, testBatch, testPart, testShape, testShot, testSubject, testTrack } from './testDocuments'
import { BLOCK_FRAMES, SAMPLE_STRIDE } from './track'
import { batchFromJson, toJson } from './batchJson'

/** What one client may write, every client can open: a batch that leaves behind anything else is never committed. */
const coat = testPart('coat')
const board = { ...testTrack('board'), leaveOut: [{ kind: 'part' as const, partId: 'post' }] }
const outline = testShape('outline', 'coat', [1001, 1020])
const start = documentOf([testShot, testSubject, coat, testPart('post', { depth: 1 }), outline, board])

/** As it comes from a stranger: through JSON, then against the document. */
function outcomeOf(patches: unknown[], overrides: Record<string, unknown> = {}): string {
  try {
    const batch = batchFromJson(JSON.parse(toJson({ ...testBatch(patches as Patch[]), ...overrides }))) as EditBatch
    const result = applyBatch(start, batch)
    return isConflict(result) ? `conflict: ${result.reason}` : 'committed'
  } catch (error) {
    return `${(error as { code?: string }).code}: ${(error as Error).message}`
  }
}

const poseKey = (extra: object) => ({
  kind: 'key',
  id: 'coat',
  time: 1005,
  before: null,
  after: { time: 1005, interpolation: 'smooth', values: [1, 2, 0, 0, 0], ...extra },
})
const field = (id: string, name: string, before: unknown, after: unknown) => ({ kind: 'field', id, field: name, before, after }) // prettier-ignore
const replaced = (before: DocumentObject | null, after: unknown, id = before!.id) => ({ kind: 'object', id, before, after }) // prettier-ignore
const block = (length: number, index = 31) => ({ kind: 'block', id: 'board', index, before: null, after: new Array(length).fill(1) as number[] }) // prettier-ignore

const POISON: Record<string, unknown[]> = {
  'a pose key with three tangent numbers': [poseKey({ tangents: [1, 2, 3] })],
  'a pose key of four numbers': [poseKey({ values: [1, 2, 3, 4] })],
  'a pose key that holds points': [poseKey({ touched: ['p0'] })],
  'a number of 1e308': [poseKey({ values: [1e308, 0, 0, 0, 0] })],
  '1e308 put into a key': [{ kind: 'values', id: 'outline', times: [1001], indices: [0], before: [outlineKeys(outline)[0]!.values[0]], after: [1e308] }], // prettier-ignore
  'a track block of 3 numbers': [block(3)],
  'a block far away': [block(BLOCK_FRAMES * SAMPLE_STRIDE, 1e9)],
  'a touched point that does not exist': [{ kind: 'key', id: 'outline', time: 1005, before: null, after: { ...outlineKeys(outline)[0]!, time: 1005, touched: ['nobody'] } }], // prettier-ignore
  'the shot object deleted': [replaced(testShot, null)],
  'the shot object replaced': [replaced(testShot, { ...testShot, width: 4 })],
  'a Part replaced by a guide of its id': [replaced(testPart('post', { depth: 1 }), { kind: 'guide', id: 'post', axis: 'x', at: 4 })], // prettier-ignore
  'an object under another id': [replaced(null, testPart('other'), 'another')],
  'a range of 20 million frames': [field('shot', 'range', [1001, 1072], [-1e7, 1e7])],
  'a range beyond all frames': [field('shot', 'range', [1001, 1072], [0, 1e9])],
  'an id that every object has': [replaced(null, testPart('__proto__'), '__proto__')],
  'a property that every object has': [field('coat', '__proto__', null, { depth: 3 })],
  'a property that is inherited': [field('coat', 'constructor', null, 1)],
  'a shape of a Part that is not there': [replaced(null, testShape('lost', 'nobody', [1001]), 'lost')],
  'a track that leaves out a Part that is not there': [field('board', 'leaveOut', [{ kind: 'part', partId: 'post' }], [{ kind: 'part', partId: 'nobody' }])], // prettier-ignore
  'a Part deleted that a track leaves out': [replaced(testPart('post', { depth: 1 }), null)],
  'points moved by a track that the shape does not have': [field('outline', 'movedPoints', [], [{ pointIds: ['nobody'], mover: null, frozenMovers: [] }])], // prettier-ignore
  'a key of a Subject': [{ ...poseKey({}), id: 'lamplighter' }],
  'a corner flag too few': [field('outline', 'corners', outline.corners, outline.corners.slice(1))],
  'a name with a NUL': [field('coat', 'name', 'coat', 'co\0at')],
  'a not-a-number by way of a list': [{ kind: 'values', id: 'outline', times: [1001], indices: [0], before: [outlineKeys(outline)[0]!.values[0]], after: [null] }], // prettier-ignore
  'an index below nothing': [{ kind: 'values', id: 'outline', times: [1001], indices: [-1], before: [0], after: [0] }],
}

describe('a batch that no client could open again', () => {
  for (const [what, patches] of Object.entries(POISON)) {
    it(`${what} is refused`, () => expect(outcomeOf(patches)).toMatch(/^(conflict|invalid-patch|invalid-batch): ./))
  }

  it('is refused for what stands round its patches: version, sequence numbers, label, ids', () => {
    const harmless = [field('coat', 'locked', false, true)]
    expect(outcomeOf(harmless)).toBe('committed')
    for (const wrong of [
      { schemaVersion: 99 },
      { clientSequence: 2 ** 31 },
      { baseSequence: 2 ** 31 },
      { label: 'x'.repeat(BOUNDS.label + 1) },
      { label: 'move\0points' },
      { author: 'I\0da' },
      { batchId: '__proto__' },
      { clientId: 'a b' },
      { undoes: 'x'.repeat(300) },
    ]) {
      expect(outcomeOf(harmless, wrong), JSON.stringify(wrong)).toMatch(/^invalid-batch: The edit is not valid at ./)
    }
    expect(outcomeOf(harmless, { schemaVersion: 99 })).toContain('newer version')
  })

  it('is judged by what it leaves behind, not by what lies between its patches', () => {
    // One corner more and one back: whole again in the end.
    expect(
      outcomeOf([
        field('outline', 'corners', outline.corners, [...outline.corners, true]),
        field('outline', 'corners', [...outline.corners, true], outline.corners),
      ]),
    ).toBe('committed')
  })

  it('what was broken before an older rule may stay and be mended', () => {
    const old = documentOf([testShot, testSubject, coat, outline, board])
    const renamed = applyBatch(old, testBatch([field('board', 'name', board.name, 'sign')] as Patch[]))
    expect(isConflict(renamed)).toBe(false)
  })
})

describe('a Part that a track leaves out', () => {
  it('is deleted with its mention, and comes back with it', () => {
    const gone = applyBatch(start, testBatch(objectsDeleted(start, ['post'])))
    if (isConflict(gone)) throw new Error(gone.reason)
    expect(findObject(gone, 'track', 'board')!.leaveOut).toEqual([])
    expect(gone.objects.has('post')).toBe(false)
  })
})

describe('many patches in one batch', () => {
  it('cost no more each than few, to within a factor of four', () => {
    const parts = Array.from({ length: 20_000 }, (_, i) => testPart(`part${i}`, { depth: i }))
    const document = documentOf([testShot, testSubject, ...parts])
    const renamed = (count: number) =>
      parts.slice(0, count).map((part): Patch => ({ kind: 'field', id: part.id, field: 'locked', before: false, after: true })) // prettier-ignore
    const visits = (count: number) => {
      // Counted, not timed: how often the whole map of objects is gone through.
      let copies = 0
      const counted = new Proxy(document.objects as Map<string, DocumentObject>, {
        get(target, name) {
          if (name === Symbol.iterator || name === 'entries' || name === 'values') copies++
          const value = Reflect.get(target, name) as unknown
          return typeof value === 'function' ? (value as () => unknown).bind(target) : value
        },
      })
      const result = applyBatch({ objects: counted }, testBatch(renamed(count)))
      expect(isConflict(result)).toBe(false)
      return copies
    }
    expect(visits(20_000)).toBe(visits(10))
    expect(objectAdded(parts[0]!).kind).toBe('object')
  })
})
