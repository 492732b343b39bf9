import { deleteShot, findShot } from '@tender-lasso/server/shots'
import { idsOf, respond, type Params } from '../../../../api/respond'

export const dynamic = 'force-dynamic'

export const GET = respond(async (_request, context: Params<'shotId'>) =>
  Response.json(await findShot((await idsOf(context)).shotId)),
)

export const DELETE = respond(async (_request, context: Params<'shotId'>) => {
  await deleteShot((await idsOf(context)).shotId)
  return new Response(null, { status: 204 })
})
