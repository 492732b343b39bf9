import { COLOUR_ENCODINGS } from '@tender-lasso/core/colour'
import { defineEntity, type InferEntity, p } from '@mikro-orm/core'

const JOB_KINDS = ['ingest', 'export'] as const
export type JobKind = (typeof JOB_KINDS)[number]
const JOB_STATES = ['queued', 'running', 'done', 'failed', 'cancelled'] as const

export const ProjectEntity = defineEntity({
  name: 'Project',
  tableName: 'project',
  properties: {
    id: p.string().primary(),
    name: p.string(),
    createdAt: p.datetime(),
  },
})

export const ShotEntity = defineEntity({
  name: 'Shot',
  tableName: 'shot',
  properties: {
    id: p.string().primary(),
    projectId: () => p.manyToOne(ProjectEntity).joinColumn('project_id').mapToPk(),
    name: p.string(),
    createdAt: p.datetime(),
    width: p.integer(),
    height: p.integer(),
    firstFrame: p.integer(),
    lastFrame: p.integer(),
    rateNumerator: p.integer(),
    rateDenominator: p.integer(),
    pixelAspect: p.double(),
    colourEncoding: p.enum([...COLOUR_ENCODINGS]),
    headSequence: p.integer(),
    /** What was uploaded, for a retry of the ingest: names and content hashes. */
    sources: p.json<{ name: string; hash: string }[]>(),
    /** What was odd about the plate and how it was mended, in words. */
    warnings: p.json<string[]>(),
  },
})

export const BatchEntity = defineEntity({
  name: 'Batch',
  tableName: 'edit_batch',
  properties: {
    shotId: () => p.manyToOne(ShotEntity).joinColumn('shot_id').mapToPk().primary(),
    sequence: p.integer().primary(),
    batchId: p.string(),
    clientId: p.string(),
    clientSequence: p.integer(),
    author: p.string(),
    label: p.string(),
    undoes: p.string().nullable(),
    createdAt: p.datetime(),
    payload: p.text(),
  },
})

export const SetAsideEntity = defineEntity({
  name: 'Aside',
  tableName: 'edit_aside',
  properties: {
    shotId: () => p.manyToOne(ShotEntity).joinColumn('shot_id').mapToPk().primary(),
    batchId: p.string().primary(),
    clientId: p.string(),
    clientSequence: p.integer(),
    author: p.string(),
    label: p.string(),
    reason: p.string(),
    createdAt: p.datetime(),
    payload: p.text(),
  },
})

export const StoredObjectEntity = defineEntity({
  name: 'StoredObject',
  tableName: 'document_object',
  properties: { hash: p.string().primary(), bytes: p.blob() },
})

export const SnapshotEntity = defineEntity({
  name: 'Snapshot',
  tableName: 'snapshot',
  properties: {
    shotId: () => p.manyToOne(ShotEntity).joinColumn('shot_id').mapToPk().primary(),
    sequence: p.integer().primary(),
    /** Hashes of the objects. */
    hashes: p.json<string[]>(),
  },
})

export const JobEntity = defineEntity({
  name: 'Job',
  tableName: 'job',
  properties: {
    id: p.string().primary(),
    kind: p.enum([...JOB_KINDS]),
    shotId: () => p.manyToOne(ShotEntity).joinColumn('shot_id').mapToPk(),
    title: p.string(),
    state: p.enum([...JOB_STATES]),
    total: p.integer(),
    message: p.string().nullable(),
    createdAt: p.datetime(),
    payload: p.json<unknown>(),
  },
})

/** A piece of a job: frames that one worker makes under a lease, or the last step, when all others are done. */
export const JobChunkEntity = defineEntity({
  name: 'JobChunk',
  tableName: 'job_chunk',
  properties: {
    jobId: () => p.manyToOne(JobEntity).joinColumn('job_id').mapToPk().primary(),
    index: p.integer().primary(),
    isFinish: p.boolean(),
    firstFrame: p.integer(),
    lastFrame: p.integer(),
    isDone: p.boolean(),
    doneFrames: p.integer(),
    tries: p.integer(),
    worker: p.string().nullable(),
    leaseUntil: p.datetime().nullable(),
    result: p.json<unknown>().nullable(),
  },
})

/** When a worker process was last heard of. */
const WorkerEntity = defineEntity({
  name: 'Worker',
  tableName: 'worker',
  properties: { id: p.string().primary(), seenAt: p.datetime() },
})

/** Who may read the live hand-off of a shot, and until when. */
export const LiveTokenEntity = defineEntity({
  name: 'LiveToken',
  tableName: 'live_token',
  properties: {
    id: p.string().primary(),
    shotId: () => p.manyToOne(ShotEntity).joinColumn('shot_id').mapToPk(),
    /** Whom it was made for, in words. */
    name: p.string(),
    /** SHA-256 of the token: itself it is told once and kept nowhere. */
    hash: p.string(),
    createdAt: p.datetime(),
    expiresAt: p.datetime(),
    revokedAt: p.datetime().nullable(),
    usedAt: p.datetime().nullable(),
  },
})

export type ProjectRow = InferEntity<typeof ProjectEntity>
export type ShotRow = InferEntity<typeof ShotEntity>
export type JobRow = InferEntity<typeof JobEntity>

export const ENTITIES = [
  ProjectEntity,
  ShotEntity,
  BatchEntity,
  SetAsideEntity,
  StoredObjectEntity,
  SnapshotEntity,
  JobEntity,
  JobChunkEntity,
  WorkerEntity,
  LiveTokenEntity,
]
