import { revokeLiveToken } from '@tender-lasso/server/liveHandoff'
import { idsOf, respond, type Params } from '../../../../api/respond'

export const DELETE = respond(async (_request, context: Params<'tokenId'>) => {
  await revokeLiveToken((await idsOf(context)).tokenId)
  return new Response(null, { status: 204 })
})
