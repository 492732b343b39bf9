import { orm, ShotEntity } from '@tender-lasso/server/database'
import type { ChunkWork } from '@tender-lasso/server/jobs'
import { ingestMovie, ingestPictures, isOfMovie } from '@tender-lasso/server/media'
import { readSettings } from '@tender-lasso/server/settings'
import { plateWasRead } from '@tender-lasso/server/shots'

/** Makes frames of a shot; the last step tells the shot what was there, and reads a movie, which has one chunk only. */
export async function ingestChunk({ claim, signal, progress }: ChunkWork): Promise<null> {
  const em = (await orm()).em.fork()
  const shot = await em.findOneOrFail(ShotEntity, { id: claim.shotId })
  const settings = readSettings()
  if (!claim.isFinish) {
    await ingestPictures(shot, [claim.firstFrame, claim.lastFrame], settings, { onFrame: progress, signal })
    return null
  }
  if (!isOfMovie(shot)) {
    // What is there is kept; what somebody took away meanwhile is made again.
    const whole = [claim.firstFrame, claim.lastFrame] as const
    await ingestPictures(shot, whole, settings, { onFrame: () => Promise.resolve(), signal })
    await plateWasRead(shot.id, claim.lastFrame, [])
    return null
  }
  const { lastFrame, warnings } = await ingestMovie(shot, settings, { onFrame: progress, signal })
  await plateWasRead(shot.id, lastFrame, warnings)
  return null
}
