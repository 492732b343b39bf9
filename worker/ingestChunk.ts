import { orm, ShotEntity } from '@tender-lasso/server/database'
import type { ChunkWork } from '@tender-lasso/server/jobs'
import { ingestMovie, ingestPictures, isOfMovie } from '@tender-lasso/server/media'
import { plateWasRead } from '@tender-lasso/server/shots'
import { storeAddress } from '@tender-lasso/server/store'

/** Makes frames of a shot; the last step tells the shot what was there, and reads a movie, which has one chunk only. */
export async function ingestChunk({ claim, signal, progress }: ChunkWork): Promise<null> {
  const em = (await orm()).em.fork()
  const shot = await em.findOneOrFail(ShotEntity, { id: claim.shotId })
  const store = storeAddress()
  if (!claim.isFinish) {
    await ingestPictures(shot, [claim.firstFrame, claim.lastFrame], store, { onFrame: progress, signal })
    return null
  }
  if (!isOfMovie(shot)) {
    // What is there is kept; what somebody took away meanwhile is made again.
    const whole = [claim.firstFrame, claim.lastFrame] as const
    await ingestPictures(shot, whole, store, { onFrame: () => Promise.resolve(), signal })
    await plateWasRead(shot.id, claim.lastFrame, [])
    return null
  }
  const { lastFrame, warnings } = await ingestMovie(shot, store, { onFrame: progress, signal })
  await plateWasRead(shot.id, lastFrame, warnings)
  return null
}
