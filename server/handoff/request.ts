import { z } from 'zod'
import { findObject, newId } from '@tender-lasso/core/document'
import { loadHead } from '../editLog'
import { orm, ShotEntity } from '../database'
import { notFound, Problem } from '../errors'
import { createJob } from '../jobs'

export const handoffSchema = z.object({
  /** Parts whose mattes are written. */
  partIds: z.array(z.string().max(60)).min(1, 'choose at least one Part').max(500),
  range: z
    .tuple([z.number().int(), z.number().int()])
    .refine(([a, b]) => a <= b, 'the first frame comes after the last'),
  withHoldouts: z.boolean(),
  motionBlur: z.boolean(),
  format: z.enum(['png16', 'exr-half']),
})
export type HandoffRequest = z.infer<typeof handoffSchema>

/** What the job needs: the request, and the edit up to which the shot is handed off. */
export interface HandoffPayload extends HandoffRequest {
  sequence: number
  mattes: { partId: string; name: string }[]
}

/**
 * Puts a hand-off of the shot as it is now into the queue.
 *
 * @throws Problem 422 when a Part is not there or the range lies outside the shot
 */
export async function startHandoff(shotId: string, request: HandoffRequest): Promise<string> {
  const em = (await orm()).em.fork()
  const shot = await em.findOne(ShotEntity, { id: shotId })
  if (!shot) throw notFound('The shot')
  const head = await loadHead(em, shotId)
  const [first, last] = request.range
  if (first < shot.firstFrame || last > shot.lastFrame) {
    throw new Problem(422, 'range-outside', `The shot has frames ${shot.firstFrame} to ${shot.lastFrame}`)
  }
  const taken = new Set<string>()
  const mattes = request.partIds.map((partId) => {
    const part = findObject(head.document, 'part', partId)
    if (!part) throw new Problem(422, 'no-such-part', 'A chosen Part does not exist any more')
    const subject = findObject(head.document, 'subject', part.subjectId)
    let name = fileNameOf(`${subject?.name ?? ''} ${part.name}`)
    for (let n = 2; taken.has(name); n++) name = `${fileNameOf(part.name)}_${n}`
    taken.add(name)
    return { partId, name }
  })
  const payload: HandoffPayload = { ...request, sequence: head.sequence, mattes }
  const count = `${mattes.length} matte${mattes.length === 1 ? '' : 's'}`
  return em.transactional((tx) =>
    createJob(tx, {
      kind: 'export',
      shotId,
      title: `${request.format === 'png16' ? 'PNG 16' : 'EXR half'}, ${count}, ${first}-${last}`,
      range: request.range,
      chunkFrames: EXPORT_CHUNK_FRAMES,
      payload,
    }),
  )
}

/** Small enough for several workers to share a short shot, large enough to keep all cores of one at work. */
const EXPORT_CHUNK_FRAMES = 12

/** Letters, digits, _ and - only: safe as a file and as a channel name. */
export function fileNameOf(name: string): string {
  const safe = name
    .trim()
    .replace(/[^A-Za-z0-9-]+/g, '_')
    .replace(/^_+|_+$/g, '')
  return safe.slice(0, 28) || `matte_${newId().slice(0, 4)}`
}
