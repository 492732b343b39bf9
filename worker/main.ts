import { closeOrm } from '@tender-lasso/server/database'
import { log } from '@tender-lasso/server/log'
import { workUntil } from '@tender-lasso/server/jobs'
import { collectGarbage } from '@tender-lasso/server/storage'
import { newId } from '@tender-lasso/core/document'
import { exportChunk } from './exportChunk'
import { ingestChunk } from './ingestChunk'

/** The job process: takes chunks of ingest and hand-off jobs until it is told to end. */
const stop = new AbortController()
process.on('SIGTERM', () => stop.abort())
process.on('SIGINT', () => stop.abort())
// One job that goes wrong in an unforeseen way must not end those beside it.
process.on('unhandledRejection', (error) => log.error({ err: error }, 'unhandled'))

/** What nothing refers to is taken away a minute after the start, then every ten. */
const collect = () => collectGarbage().catch((error: unknown) => log.error({ err: error }, 'collecting failed'))
setTimeout(() => void collect(), 60_000).unref()
setInterval(() => void collect(), 600_000).unref()

log.info('the job process is ready')
await workUntil(stop.signal, `${process.pid}-${newId()}`, { ingest: ingestChunk, export: exportChunk })
await closeOrm().catch(() => undefined)
process.exit(0)
