import {
  allOf,
  applyBatch,
  batchFromJson,
  findObject,
  isConflict,
  patchesTakenBack,
  replicaOf,
  SCHEMA_VERSION,
  toJson,
  withLocalEdit,
  withPatchesApplied,
  type EditBatch,
  type Patch,
  type RotoDocument,
  channelOf,
} from '@tender-lasso/core/document'
import { formChanged, movedOnPlate, valuesKeyed, type Keying } from '@tender-lasso/core/edits'
import { shapePointsAt } from '@tender-lasso/core/evaluation' // prettier-ignore
import {
  documentOf,
  testBatch,
  testPart,
  testShape,
  testShot,
  testSubject,
} from '@tender-lasso/core/document/testDocuments'
import { translation } from '@tender-lasso/core/geometry'
import { median, type Benchmark } from './benchmark'

/** 300 shapes x 40 keys x 24 points, or another number of shapes. */
export function largeDocument(shapeCount = 300) {
  const times = Array.from({ length: 40 }, (_, i) => 1001 + i * 2)
  const shapes = Array.from({ length: shapeCount }, (_, i) => testShape(`shape${i}`, `part${i % 30}`, times, 24))
  const parts = Array.from({ length: 30 }, (_, i) => testPart(`part${i}`, { depth: i }))
  return documentOf([testShot, testSubject, ...parts, ...shapes])
}

export const editLatency: Benchmark = {
  name: 'edit-latency',
  goal: 50,
  better: 'less',
  async run() {
    let replica = replicaOf(largeDocument())
    const times: number[] = []
    for (let i = 0; i < 60; i++) {
      const shape = findObject(replica.live, 'shape', `shape${i * 5}`)!
      const values = shapePointsAt(shape, 1021).slice()
      values[0]! += 1
      const start = performance.now()
      const batch: EditBatch = {
        batchId: `b${i}`,
        clientId: 'bench',
        clientSequence: i,
        author: 'bench',
        baseSequence: 0,
        schemaVersion: SCHEMA_VERSION,
        label: 'move a point',
        undoes: null,
        patches: valuesKeyed(channelOf(shape), 1021, values),
      }
      replica = withLocalEdit(replica, batch)!
      const undone = applyBatch(replica.live, { ...batch, batchId: `u${i}`, patches: patchesTakenBack(batch) })
      if (isConflict(undone)) throw new Error(undone.reason)
      times.push(performance.now() - start)
    }
    return { value: median(times), unit: 'ms', notes: 'one edit applied and undone on 300 x 40 x 24, in core' }
  },
}

const EVERYWHERE: Keying = { reach: { kind: 'everywhere' }, makesKeys: true, onlyTouched: false }
/** What a drag shows on the way: the keys round the frame on screen; see web/state/keying. */
const ON_THE_WAY: Keying = { ...EVERYWHERE, seen: [1019, 1023] }

/** All shapes moved Everywhere by one step of a drag, made and applied. */
function moveEverywhere(document: RotoDocument, by: number, how: Keying): Patch[] {
  const map = translation(by, -by)
  return allOf(document, 'shape').flatMap((shape) =>
    formChanged(
      shape,
      1021,
      movedOnPlate(document, shape, 1021, () => 1, map),
      how,
    ),
  )
}

/** Medians in milliseconds: of a move on the way, of the last one with every key of each shape, of what the server does. */
function timeOfMoves(document: RotoDocument): { move: number; release: number; submit: number } {
  const timed = (how: Keying) => {
    const times: number[] = []
    for (let i = 1; i <= 25; i++) {
      const start = performance.now()
      const shown = withPatchesApplied(document, moveEverywhere(document, i, how))
      if (i > 5) times.push(performance.now() - start)
      if (shown === document) throw new Error('nothing moved')
    }
    return median(times)
  }
  const [move, release] = [timed(ON_THE_WAY), timed(EVERYWHERE)]
  const submits: number[] = []
  for (let i = 1; i <= 5; i++) {
    // What the server does with it beside its database: read, judge, apply.
    const text = toJson(testBatch(moveEverywhere(document, i, EVERYWHERE)))
    const sent = performance.now()
    const result = applyBatch(document, batchFromJson(JSON.parse(text)))
    if (isConflict(result)) throw new Error(result.reason)
    submits.push(performance.now() - sent)
  }
  return { move, release, submit: median(submits) }
}

export const everywhere: Benchmark = {
  name: 'everywhere',
  goal: 33,
  better: 'less',
  run() {
    const [some, many] = [timeOfMoves(largeDocument()), timeOfMoves(largeDocument(1000))]
    const words = (count: number, { move, release, submit }: typeof some) =>
      `${count} shapes x 40 keys x 24 points: ${move.toFixed(1)} ms a move, ${release.toFixed(0)} ms at its end, read, judged and applied in ${submit.toFixed(0)} ms`
    return Promise.resolve({ value: some.move, unit: 'ms', notes: `${words(300, some)}; ${words(1000, many)}` })
  },
}
