import { framePath, readTiles } from '@tender-lasso/server/media'
import { readSettings } from '@tender-lasso/server/settings'
import { joinTiles, tileBlockSchema } from '@tender-lasso/formats/analysis'
import { frameHeaders, framePlace } from '../../../../../../../api/frames'
import { respond, type Params } from '../../../../../../../api/respond'

export const dynamic = 'force-dynamic'

/** Tiles of an analysis frame in one answer: `?plane=luma&firstColumn=2&lastColumn=4&firstRow=1&lastRow=3`. */
export const GET = respond(async (request, { params }: Params<'shotId' | 'frame'>) => {
  const { shotId, frame } = framePlace.parse(await params)
  const block = tileBlockSchema.parse(Object.fromEntries(new URL(request.url).searchParams))
  const tiles = await readTiles(framePath(readSettings().frames, shotId, frame, 'analysis'), block)
  return new Response(joinTiles(tiles), { headers: frameHeaders('application/octet-stream') })
})
