import { readingOfShot } from '@tender-lasso/server/shots'
import { framePlace } from '../../../../../api/frames'
import { respond, type Params } from '../../../../../api/respond'

export const dynamic = 'force-dynamic'

/** How far the plate is read: what is asked while a shot is worked at that is still being read. */
export const GET = respond(async (_request, { params }: Params<'shotId'>) => {
  const { shotId } = framePlace.pick({ shotId: true }).parse(await params)
  return Response.json(await readingOfShot(shotId))
})
