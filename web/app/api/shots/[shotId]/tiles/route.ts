import { Problem } from '@tender-lasso/server/errors'
import { readTiles } from '@tender-lasso/server/media'
import { missingFrame } from '@tender-lasso/server/shots'
import { mediaStore } from '@tender-lasso/server/store'
import { frameListSchema, tileBlockSchema } from '@tender-lasso/formats/analysis'
import { frameHeaders, framePlace, streamOf } from '../../../../../api/frames'
import { respond, type Params } from '../../../../../api/respond'

export const dynamic = 'force-dynamic'

/**
 * Tiles of analysis frames, frame after frame, in one answer:
 * `?frames=1002,1003&plane=luma&firstColumn=2&lastColumn=4&firstRow=1&lastRow=3`.
 */
export const GET = respond(async (request, { params }: Params<'shotId'>) => {
  const { shotId } = framePlace.pick({ shotId: true }).parse(await params)
  const query = Object.fromEntries(new URL(request.url).searchParams)
  const block = tileBlockSchema.parse(query)
  const frames = frameListSchema.parse(query.frames)
  const bytes = await readTiles(mediaStore(), shotId, frames, block).catch(async (error: unknown) => {
    throw error instanceof Problem && error.status === 404 ? await missingFrame(shotId, frames) : error
  })
  return new Response(streamOf(bytes), { headers: frameHeaders('application/octet-stream', bytes) })
})
