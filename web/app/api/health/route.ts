import { workersAlive } from '@tender-lasso/server/jobs'
import { diskSpace } from '@tender-lasso/server/storage'

export const dynamic = 'force-dynamic'

/** Whether the parts of the application live: the web server answers; the database and the workers may not. */
export async function GET() {
  try {
    const [workers, disk] = await Promise.all([workersAlive(), diskSpace()])
    return Response.json({ ok: true, database: true, workers, ...disk })
  } catch {
    return Response.json({ ok: true, database: false, workers: null, isNearlyFull: false })
  }
}
