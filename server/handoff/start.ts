import { LockMode } from '@mikro-orm/core'
import type { EntityManager } from '@mikro-orm/postgresql'
import { findObject, type Output } from '@tender-lasso/core/document'
import { deliveredRange, mattesOf, versionWord } from '@tender-lasso/core/handoff'
import { orm, ShotEntity } from '../database'
import { loadHead, requireShot } from '../editLog'
import { notFound, Problem } from '../errors'
import { createJob, findJob } from '../jobs'
import { deliveryOf, type Delivery } from './payload'

/** Small enough for several workers to share a short shot, large enough to keep all cores of one at work. */
const EXPORT_CHUNK_FRAMES = 12

/**
 * Puts a delivery of an output, of the shot as it is now, into the queue.
 *
 * @returns the job's id
 * @throws Problem 404 when shot or output is not there, 422 when there is nothing to write
 */
export async function startDelivery(shotId: string, outputId: string): Promise<string> {
  const em = (await orm()).em.fork()
  await requireShot(em, shotId)
  const head = await loadHead(em, shotId)
  const output = findObject(head.document, 'output', outputId)
  if (!output) throw notFound('The output')
  const mattes = mattesOf(head.document, output)
  if (mattes.length === 0) throw new Problem(422, 'no-mattes', `${output.name} holds no matte: draw a shape, or choose other Parts`) // prettier-ignore
  return em.transactional(async (tx) => {
    // Of deliveries that are asked for at once each gets a version of its own.
    const shot = await tx.findOneOrFail(ShotEntity, { id: shotId }, { lockMode: LockMode.PESSIMISTIC_WRITE })
    const range = deliveredRange(output, [shot.firstFrame, shot.lastFrame])
    if (!range) throw new Problem(422, 'range-outside', `The shot has frames ${shot.firstFrame} to ${shot.lastFrame}`)
    const version = (await latestVersion(tx, shotId, outputId)) + 1
    return createDelivery(tx, shotId, { output, version, sequence: head.sequence, range, mattes })
  })
}

/** Makes a delivery of before again, exactly: the same edits, the same settings. @returns the new job's id */
export async function repeatDelivery(jobId: string): Promise<string> {
  const job = await findJob(jobId)
  const delivery = job.kind === 'export' ? deliveryOf(job.payload) : null
  if (!delivery) throw notFound('The delivery')
  return (await orm()).em.fork().transactional((tx) => createDelivery(tx, job.shotId, delivery))
}

async function latestVersion(tx: EntityManager, shotId: string, outputId: string): Promise<number> {
  const rows = await tx.execute<{ version: number | null }[]>(
    `select max((payload->>'version')::int) as version from job
     where kind = 'export' and shot_id = ? and payload->'output'->>'id' = ?`,
    [shotId, outputId],
  )
  return rows[0]?.version ?? 0
}

function createDelivery(tx: EntityManager, shotId: string, delivery: Delivery): Promise<string> {
  const { output, version, range } = delivery
  return createJob(tx, {
    kind: 'export',
    shotId,
    title: titleOf(output, version, range),
    range,
    chunkFrames: EXPORT_CHUNK_FRAMES,
    payload: delivery,
  })
}

const titleOf = ({ name }: Output, version: number, [first, last]: readonly [number, number]) =>
  `${name} ${versionWord(version)}, ${first === last ? first : `${first}-${last}`}`
