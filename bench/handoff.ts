import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import {
  constantChannel,
  NEW_OUTPUT_FIELDS,
  outlineKeys,
  POINT,
  POINT_STRIDE,
  type Shape,
} from '@tender-lasso/core/document'
import { documentOf, testPart, testShape, testShot, testSubject } from '@tender-lasso/core/document/testDocuments'
import { sceneAt } from '@tender-lasso/core/evaluation'
import { writeLottie } from '@tender-lasso/formats/lottie'
import { writeSvg } from '@tender-lasso/formats/svg'
import { shareWork, writeFrames, type Delivery } from '@tender-lasso/server/handoff'
import type { Benchmark } from './benchmark'

const WARM_UP = 4

interface Scene {
  parts: number
  /** Of the Parts, pixels. */
  radius: number
  /** Softness of the edges to both sides, pixels. */
  feather: number
  frames: number
  /** Missing: all mattes as channels of a half EXR. */
  files?: 'png16'
}

/** Hand-off of some Parts that cut one another. */
const exported = (name: string, goal: number, { parts, radius, feather, frames: count, files }: Scene): Benchmark => ({
  name,
  goal,
  better: 'more',
  async run() {
    const folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-bench-'))
    const times = [1001, 1010, 1020, 1030]
    const ids = Array.from({ length: parts }, (_, i) => `part${i}`)
    const document = documentOf([
      { ...testShot, width: 2048, height: 1152 },
      testSubject,
      ...ids.map((id, depth) => testPart(id, { depth })),
      ...ids.map((id, i) => softened(spread(testShape(`s${id}`, id, times, 20, radius), i), feather)),
    ])
    const payload: Delivery = {
      range: [1001, 1000 + count],
      output: {
        ...NEW_OUTPUT_FIELDS,
        id: 'channels',
        name: 'Channels',
        order: 0,
        layout: files ? 'one' : 'channels',
        format: files ?? 'exr-half',
        pattern: files ? '{part}/{shot}.{frame}' : '{shot}.{frame}',
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
      const work = shareWork({ document, payload, target })
      const frames = Array.from({ length: count }, (_, i) => 1001 + i)
      await writeFrames(work, frames, (done) => {
        if (done === WARM_UP) start = performance.now()
        return Promise.resolve()
      })
      const seconds = (performance.now() - start) / 1000
      return {
        value: (count - WARM_UP) / seconds,
        unit: 'frames/s',
        notes: `${files ? '16-bit PNG each' : 'half EXR'}, ${parts} mattes with holdouts and blur, feather ${feather} px, 2048 x 1152, a thread a core`,
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

/** Side by side by rows of eight, each over the ones beside it; the first three on one another. */
function spread(shape: Shape, index: number): Shape {
  if (index < 3) return shape
  const [dx, dy] = [(index % 8) * 210, Math.floor(index / 8) * 330]
  for (const key of outlineKeys(shape)) {
    for (let i = 0; i < key.values.length; i += POINT_STRIDE) {
      key.values[i + POINT.x]! += dx
      key.values[i + POINT.y]! += dy
    }
  }
  return shape
}

const THREE = { parts: 3, radius: 220, frames: 48 }
export const exportFrames = exported('export', 25, { ...THREE, feather: 0 })
export const exportSoftFrames = exported('export-soft', 15, { ...THREE, feather: 6 })
const MANY = { parts: 24, radius: 180, feather: 3, frames: 20 }
export const exportMany = exported('export-many', 4, MANY)
export const exportManyFiles = exported('export-many-files', 3, { ...MANY, files: 'png16' })

/** 300 shapes on 72 frames, each moving by keys of its own, as one animation. */
const outlines = (name: string, write: typeof writeSvg): Benchmark => ({
  name,
  goal: 10,
  better: 'less',
  run() {
    const ids = Array.from({ length: 300 }, (_, i) => `part${i}`)
    const document = documentOf([
      testShot,
      testSubject,
      ...ids.map((id, depth) => testPart(id, { depth })),
      ...ids.map((id) => testShape(`s${id}`, id, [1001, 1020, 1040, 1072], 20, 60)),
    ])
    const start = performance.now()
    const { width, height, pixelAspect, rate } = testShot
    const { text } = write({
      title: 'bench',
      width,
      height,
      pixelAspect,
      rate,
      nameOf: (part) => ({ name: part, colour: '#888888' }),
      frames: Array.from({ length: 72 }, (_, i) => ({ frame: 1001 + i, scene: sceneAt(document, 1001 + i) })),
    })
    return Promise.resolve({
      value: (performance.now() - start) / 1000,
      unit: 's',
      notes: `300 shapes of 20 points x 72 frames, ${(text.length / 2 ** 20).toFixed(0)} MB`,
    })
  },
})

export const exportSvg = outlines('export-svg', writeSvg)
export const exportLottie = outlines('export-lottie', writeLottie)
