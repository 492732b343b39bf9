import { uploadServer } from '../../../../api/uploads'

export const dynamic = 'force-dynamic'

/** The pages are of this origin: no other is told that it may read. */
async function handle(request: Request): Promise<Response> {
  const answer = await uploadServer().handleWeb(request)
  const headers = new Headers(answer.headers)
  for (const name of [...headers.keys()]) if (name.startsWith('access-control-')) headers.delete(name)
  return new Response(answer.body, { status: answer.status, headers })
}

export { handle as DELETE, handle as GET, handle as HEAD, handle as OPTIONS, handle as PATCH, handle as POST }
