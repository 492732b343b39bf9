import { hasHoldouts, findObject, type Output, type RotoDocument, type Shot } from '@tender-lasso/core/document'
import {
  coveredByAny,
  deliveredRange,
  frameInputs,
  frameView,
  liveOutput,
  mattesOf,
  picturesOf,
} from '@tender-lasso/core/handoff'
import { boxAround, ontoBox, renderFittedMattes, renderMattes } from '@tender-lasso/core/raster'
import { orm } from '../database'
import { deliveredMatte, type MattePixels } from '../deliveryView'
import { headAt, loadHead } from '../editLog'
import { failureOfTask, notFound, Problem } from '../errors'
import { encodePicture, pixelsOfOutput } from '../handoff'
import { openStore, sha256 } from '../store'
import type { FrameTask, LiveAnswer, LiveFrame, LiveSource, LiveTask, LiveVersions, MatteTask, VersionsTask } from './task' // prettier-ignore

/**
 * One thread of the live hand-off. It follows the shot's log by itself, so that no document is handed from thread to thread: what was read before is kept, and each
 * task looks at what came since.
 */
export default async function answer(task: LiveTask): Promise<LiveAnswer> {
  try {
    switch (task.what) {
      case 'nothing':
        await orm()
        return { nothing: true }
      case 'versions':
        return { versions: await versionsOf(task) }
      case 'frame':
        return { frame: await frameOf(task) }
      case 'matte':
        return { matte: await matteOf(task) }
      case 'delivered':
        return { matte: await deliveredMatte({ ...task, store: openStore(task.store) }) }
    }
  } catch (error) {
    return { failure: failureOfTask(error) }
  }
}

/** An output as it is now. */
interface Present {
  shotName: string
  shot: Shot
  output: Output
  document: RotoDocument
  sequence: number
  range: [number, number]
}

/** Of a shot's row what a frame needs. */
interface ShotHead {
  name: string
  head_sequence: number
}

async function presentOf({ shotId, outputId }: LiveSource): Promise<Present> {
  const em = (await orm()).em.fork()
  // Asked with each request for a frame: by hand it takes a quarter of the time.
  const [row] = await em.execute<ShotHead[]>('select name, head_sequence from shot where id = ?', [shotId])
  if (!row) throw notFound('The shot')
  const { document, sequence } = await headAt(em, shotId, row.head_sequence)
  const shot = findObject(document, 'shot', 'shot')
  if (!shot) throw notFound('The shot')
  const output = findObject(document, 'output', outputId)
  if (!output) throw notFound('The output')
  const [first, last] = shot.range
  const range = deliveredRange(output, [first, last])
  if (!range) throw new Problem(404, 'range-outside', `The output has no frame of ${first} to ${last}`)
  return { shotName: row.name, shot, output, document, sequence, range }
}

async function versionsOf(task: VersionsTask): Promise<LiveVersions> {
  const present = await presentOf(task)
  const { shotName, shot, output, document, sequence, range } = present
  return {
    shot: shotName,
    output: output.name,
    sequence,
    range,
    ...pixelsOfOutput(output, shot),
    pixelAspect: shot.pixelAspect,
    rate: shot.rate,
    mattes: mattesOf(document, output).map(({ name }) => name),
    versions: (task.frames ?? []).map((frame) => versionOf(present, frame)),
  }
}

/** Versions that were worked out, of each document by output and frame. */
const known = new WeakMap<RotoDocument, Map<string, string>>()

/** A word for all that a frame's files are made of; null where the output has no such frame, or no matte at all. */
function versionOf({ shotName, shot, output, document, range }: Present, frame: number): string | null {
  if (frame < range[0] || frame > range[1]) return null
  let versions = known.get(document)
  if (!versions) known.set(document, (versions = new Map()))
  const key = `${output.id}/${frame}/${shotName}`
  let version = versions.get(key)
  if (!version) {
    const { width, height, pixelAspect, rate } = shot
    const words = JSON.stringify([shotName, width, height, pixelAspect, rate, output.name, frame])
    const view = frameView(document, output, frame)
    if (view.mattes.length === 0) return null
    const inputs = frameInputs(view, output)
    version = sha256(Buffer.concat([Buffer.from(words), inputs])).slice(0, 32)
    versions.set(key, version)
  }
  return version
}

async function frameOf(task: FrameTask): Promise<LiveFrame> {
  const isCancelled = () => Atomics.load(task.stop, 0) !== 0
  if (isCancelled()) return null
  const present = await presentOf(task)
  const { shotName, shot, document, sequence } = present
  const { frame, ending } = task
  const version = versionOf(present, frame)
  if (version === null) throw notFound(`Frame ${frame} of the output`)
  const output = liveOutput(present.output, ending)
  const { scene, mattes } = frameView(document, present.output, frame)
  const { width, height } = pixelsOfOutput(output, shot)
  const withHoldouts = hasHoldouts(present.output)
  const whole = { left: 0, top: 0, right: width, bottom: height }
  const fitted = renderFittedMattes(
    scene,
    mattes.map(({ partId }) => ({ partId, withHoldouts })),
    { box: whole, motionBlur: output.motionBlur, isCancelled },
  )
  if (!fitted || isCancelled()) return null
  const isPicture = ending === 'png'
  // Of EXR only the pixels where there is something are made at all.
  const box = isPicture ? whole : boxAround(fitted)
  const names = mattes.map(({ name }) => name)
  const said = {
    pixelAspect: shot.pixelAspect,
    framesPerSecond: shot.rate,
    frame,
    // Not the place in the log: the same version is the same bytes.
    texts: { shot: shotName, output: output.name, frameVersion: version },
  }
  const together = isPicture ? [{ alpha: coveredByAny(ontoBox(fitted, whole), withHoldouts, width * height), box }] : fitted // prettier-ignore
  const [picture] = isPicture
    ? [{ path: '', channels: [{ name: 'Y', matte: 0 }] }]
    : picturesOf(output, mattes, { shot: shotName, version: sequence, frame })
  const bytes = await encodePicture(output, picture!, { mattes: together, box, names, width, height }, said)
  return { version, bytes: new Uint8Array(bytes) }
}

async function matteOf({ shotId, output, partId, frame }: MatteTask): Promise<MattePixels> {
  const { em } = await orm()
  const { document } = await loadHead(em.fork(), shotId)
  const shot = findObject(document, 'shot', 'shot')
  if (!shot) throw notFound('The shot')
  const { width, height } = pixelsOfOutput(output, shot)
  const values = new Uint16Array(width * height)
  const { scene } = frameView(document, output, frame)
  if (!scene.parts.some(({ id }) => id === partId)) return { width, height, values }
  const [alpha] = renderMattes(scene, [{ partId, withHoldouts: hasHoldouts(output) }], {
    box: { left: 0, top: 0, right: width, bottom: height },
    motionBlur: output.motionBlur,
  })!
  for (let i = 0; i < values.length; i++) values[i] = alpha![i]! * 65535 + 0.5
  return { width, height, values }
}
