import { storageUsage } from '@tender-lasso/server/storage'
import { respond } from '../../../api/respond'

export const dynamic = 'force-dynamic'

export const GET = respond(async () => Response.json(await storageUsage()))
