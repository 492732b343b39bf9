import { listJobs } from '@tender-lasso/server/jobs'
import { respond } from '../../../api/respond'

export const dynamic = 'force-dynamic'

export const GET = respond(async (request) => {
  const jobs = await listJobs({ shotId: new URL(request.url).searchParams.get('shot') ?? undefined })
  return Response.json(
    jobs.map(({ id, kind, shotId, title, state, done, total, message, createdAt }) => {
      return { id, kind, shotId, title, state, done, total, message, createdAt }
    }),
  )
})
