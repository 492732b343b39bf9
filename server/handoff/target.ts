import { orm, ShotEntity } from '../database'
import { notFound } from '../errors'
import { keys, storeAddress } from '../store'
import type { HandoffTarget } from './write'

/** Where the files of a delivery go, and what they have to know of the shot. @throws Problem 404 when the shot is gone */
export async function handoffTarget(shotId: string, jobId: string): Promise<HandoffTarget> {
  const shot = await (await orm()).em.fork().findOne(ShotEntity, { id: shotId })
  if (!shot) throw notFound('The shot')
  return {
    store: storeAddress(),
    key: keys.handoff(shotId, jobId),
    shotId,
    shotName: shot.name,
    width: shot.width,
    height: shot.height,
    pixelAspect: Number(shot.pixelAspect),
    rate: { numerator: shot.rateNumerator, denominator: shot.rateDenominator },
  }
}
