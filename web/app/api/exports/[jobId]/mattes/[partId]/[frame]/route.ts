import { compared, delivered } from '@tender-lasso/server/deliveryView'
import { notFound } from '@tender-lasso/server/errors'
import { liveHandoff } from '@tender-lasso/server/liveHandoff'
import { storeAddress } from '@tender-lasso/server/store'
import { finishedExport } from '../../../../../../../api/exports'
import { idsOf, respond, type Params } from '../../../../../../../api/respond'

export const dynamic = 'force-dynamic'

/** A matte of a delivery as a picture; with `?against=now` compared with the shot as it is now, the figures in headers. */
export const GET = respond(async (request, context: Params<'jobId' | 'partId' | 'frame'>) => {
  const { jobId, partId, frame } = await idsOf(context)
  if (!/^-?\d{1,7}$/.test(frame)) throw notFound('The frame')
  const place = { ...(await finishedExport(jobId)), store: storeAddress(), partId, frame: Number(frame) }
  const isCompared = new URL(request.url).searchParams.get('against') === 'now'
  const { png, difference } = await (isCompared ? compared : delivered)(place, liveHandoff())
  const headers = { 'Content-Type': 'image/png', 'Cache-Control': 'no-store' }
  const told = difference && {
    'Differing-Pixels': String(difference.differing),
    'Largest-Difference': difference.largest.toFixed(4),
  }
  return new Response(png, { headers: { ...headers, ...told } })
})
