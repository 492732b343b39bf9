import { closeOrm } from '@tender-lasso/server/database'
import { closeQueue, JOB_QUEUES, queue, resumeInterruptedJobs, runJob } from '@tender-lasso/server/jobs'
import { exportJob } from './exportJob'
import { ingestJob } from './ingestJob'

/** The job process: takes ingest and hand-off jobs from the queue until it is told to end. */
const work = { ingest: ingestJob, export: exportJob }

const boss = await queue()
for (const kind of JOB_QUEUES) {
  await boss.work<{ id: string }>(kind, { pollingIntervalSeconds: 0.5 }, async ([job]) => {
    await runJob(job!.data.id, work[kind])
  })
}
await resumeInterruptedJobs()
console.log('worker: ready')

let isEnding = false
async function end() {
  if (isEnding) return
  isEnding = true
  await closeQueue()
  await closeOrm()
  process.exit(0)
}
process.on('SIGTERM', () => void end())
process.on('SIGINT', () => void end())
