import { applyBatch, find, isConflict, patchesTakenBack, valuesKeyed, replicaOf, shapePointsAt, withLocalEdit, type EditBatch } from '@tender-lasso/core/document' // prettier-ignore
import { documentOf, testPart, testShape, testShot, testSubject } from '@tender-lasso/core/document/testDocuments'
import { median, type Benchmark } from './benchmark'

/** 300 shapes x 40 keys x 24 points. */
export function largeDocument() {
  const times = Array.from({ length: 40 }, (_, i) => 1001 + i * 2)
  const shapes = Array.from({ length: 300 }, (_, i) => testShape(`shape${i}`, `part${i % 30}`, times, 24))
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
      const shape = find(replica.live, 'shape', `shape${i * 5}`)!
      const values = shapePointsAt(shape, 1021).slice()
      values[0]! += 1
      const start = performance.now()
      const batch: EditBatch = {
        batchId: `b${i}`,
        clientId: 'bench',
        clientSequence: i,
        author: 'bench',
        baseSequence: 0,
        schemaVersion: 1,
        label: 'move a point',
        undoes: null,
        patches: valuesKeyed(shape, 1021, values),
      }
      replica = withLocalEdit(replica, batch)!
      const undone = applyBatch(replica.live, { ...batch, batchId: `u${i}`, patches: patchesTakenBack(batch) })
      if (isConflict(undone)) throw new Error(undone.reason)
      times.push(performance.now() - start)
    }
    return { value: median(times), unit: 'ms', notes: 'one edit applied and undone on 300 x 40 x 24, in core' }
  },
}
