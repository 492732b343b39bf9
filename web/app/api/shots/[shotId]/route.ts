import { deleteShot, findShot } from '@tender-lasso/server/shots'
import { respond, type Params } from '../../../../api/respond'

export const dynamic = 'force-dynamic'

export const GET = respond(async (_request, { params }: Params<'shotId'>) =>
  Response.json(await findShot((await params).shotId)),
)

export const DELETE = respond(async (_request, { params }: Params<'shotId'>) => {
  await deleteShot((await params).shotId)
  return new Response(null, { status: 204 })
})
