import { listBoard } from '@tender-lasso/server/shots'
import { respond } from '../../../api/respond'

export const dynamic = 'force-dynamic'

export const GET = respond(async () => Response.json(await listBoard()))
