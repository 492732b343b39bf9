import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { constantChannel, NEW_OUTPUT_FIELDS, type Shape } from '@tender-lasso/core/document'
import { documentOf, testPart, testShape, testShot, testSubject } from '@tender-lasso/core/document/testDocuments'
import { framesWriter, type Delivery } from '@tender-lasso/server/handoff'
import type { Benchmark } from './benchmark'

const FRAMES = 48
const WARM_UP = 4

/** Hand-off of three Parts that cut one another, with edges of some softness to both sides, pixels. */
const exported = (name: string, goal: number, feather: number): Benchmark => ({
  name,
  goal,
  better: 'more',
  async run() {
    const folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-bench-'))
    const times = [1001, 1010, 1020, 1030]
    const ids = ['a', 'b', 'c']
    const document = documentOf([
      { ...testShot, width: 2048, height: 1152 },
      testSubject,
      ...ids.map((id, depth) => testPart(id, { depth })),
      ...ids.map((id) => softened(testShape(`s${id}`, id, times, 20, 220), feather)),
    ])
    const payload: Delivery = {
      range: [1001, 1000 + FRAMES],
      output: {
        ...NEW_OUTPUT_FIELDS,
        id: 'channels',
        name: 'Channels',
        order: 0,
        layout: 'channels',
        format: 'exr-half',
        pattern: '{shot}.{frame}',
      },
      version: 1,
      sequence: 0,
      mattes: ids.map((id) => ({ partId: id, name: id })),
    }
    const target = {
      store: folder,
      key: 'job',
      shotId: 'bench',
      shotName: 'bench',
      width: 2048,
      height: 1152,
      pixelAspect: 1,
      rate: { numerator: 24, denominator: 1 },
    }
    try {
      let start = 0
      // The first frames start the threads and warm them up.
      const writer = framesWriter('bench', { document, payload, target })
      const frames = Array.from({ length: FRAMES }, (_, i) => 1001 + i)
      await writer.write(frames, (done) => {
        if (done === WARM_UP) start = performance.now()
        return Promise.resolve()
      })
      const seconds = (performance.now() - start) / 1000
      await writer.close()
      return {
        value: (FRAMES - WARM_UP) / seconds,
        unit: 'frames/s',
        notes: `half EXR, 3 mattes with holdouts and blur, feather ${feather} px, 2048 x 1152, a thread a core`,
      }
    } finally {
      rmSync(folder, { recursive: true, force: true })
    }
  },
})

const softened = (shape: Shape, feather: number): Shape => ({
  ...shape,
  channels: {
    ...shape.channels,
    ...(feather > 0 && { innerFeather: constantChannel(feather), outerFeather: constantChannel(feather) }),
  },
})

export const exportFrames = exported('export', 20, 0)
export const exportSoftFrames = exported('export-soft', 15, 6)
