import { LIVE_ENDINGS, type LiveEnding } from '@tender-lasso/core/handoff'
import { notFound } from '@tender-lasso/server/errors'
import { liveHandoff, requireLiveToken } from '@tender-lasso/server/liveHandoff'
import { eventStream } from '../../../../../api/eventStream'
import { respond, idsOf } from '../../../../../api/respond'

export const dynamic = 'force-dynamic'

interface Context {
  params: Promise<{ shotId: string; outputId: string; file: string }>
}

const TYPES: Record<LiveEnding, string> = { exr: 'image/x-exr', png: 'image/png' }

/** Asked for each time, answered without the file where the asker's is still true. */
const CACHING = { 'Cache-Control': 'private, no-cache' }

/** The live hand-off of an output: `manifest.json`, `events`, `FRAME.exr`, `FRAME.png`; read with a token. */
export const GET = respond(async (request, { params }: Context) => {
  const { file, ...ids } = await params
  const source = await idsOf({ params: Promise.resolve(ids) })
  const live = liveHandoff()
  const allowed = requireLiveToken(source.shotId, tokenOf(request))
  const [, number, ending] = /^(-?\d{1,7})\.(\w+)$/.exec(file) ?? []
  const known = LIVE_ENDINGS.find((one) => one === ending)
  if (number && known) {
    const has = versionIn(request.headers.get('if-none-match'))
    const { version, bytes } = await live.file(source, Number(number), known, has, request.signal, allowed)
    const headers = { ...CACHING, ETag: `"${version}"` }
    if (!bytes) return new Response(null, { status: 304, headers })
    return new Response(bytes, {
      headers: { ...headers, 'Content-Type': TYPES[known], 'Content-Length': String(bytes.length) },
    })
  }
  await allowed
  if (file === 'manifest.json') return Response.json(await live.manifest(source), { headers: CACHING })
  if (file === 'events') {
    // What is not there is told before the stream begins.
    await live.require(source)
    const isStillLetIn = () => requireLiveToken(source.shotId, tokenOf(request)).then(() => true)
    return eventStream(request, (follower) => live.watch(source, follower), isStillLetIn)
  }
  throw notFound(`${file} of a live output (FRAME.exr, FRAME.png, manifest.json, events)`)
})

const tokenOf = (request: Request): string | null =>
  /^Bearer (\S+)$/i.exec(request.headers.get('authorization') ?? '')?.[1] ??
  new URL(request.url).searchParams.get('token')

/** The version that a request says it has (RFC 9110, If-None-Match), one of ours, weak or strong. */
const versionIn = (header: string | null): string | null => /"([0-9a-f]{32})"/.exec(header ?? '')?.[1] ?? null
