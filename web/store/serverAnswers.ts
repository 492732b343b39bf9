import type { ColourEncoding } from '@tender-lasso/core/colour'
import type { Rate } from '@tender-lasso/core/timing'

/** A shot as the server tells it. */
export interface ShotInfo {
  id: string
  projectId: string
  projectName: string
  name: string
  state: 'ingesting' | 'ready' | 'failed'
  message: string | null
  width: number
  height: number
  firstFrame: number
  lastFrame: number
  rate: Rate
  pixelAspect: number
  colourEncoding: ColourEncoding
  /** What was odd about the plate and how it was mended. */
  warnings: string[]
  /** The job that reads it, unless it has. */
  jobId: string | null
  edits: number
}

export interface ProjectInfo {
  id: string
  name: string
  shots: Omit<ShotInfo, 'projectName'>[]
}

export interface JobInfo {
  id: string
  kind: 'ingest' | 'export'
  shotId: string
  title: string
  state: 'queued' | 'running' | 'done' | 'failed' | 'cancelled'
  done: number
  total: number
  message: string | null
  createdAt: string
}

/** A delivery of an output, as the server lists them. */
export interface DeliveryInfo {
  jobId: string
  outputId: string
  version: number
  state: JobInfo['state']
  message: string | null
  range: [number, number]
  /** The edit of the log up to which it is made. */
  sequence: number
  /** Frames. */
  done: number
  total: number
  at: string
}

export interface HandoffStatus {
  outputs: {
    outputId: string
    /** Edits since the latest whole delivery that touched what the output shows, and which Parts; null: never delivered. */
    behind: { edits: number; partIds: string[] } | null
  }[]
  /** Newest first. */
  deliveries: DeliveryInfo[]
}

/** Bytes that the data folder takes, by what they are for, and what its disk has. */
export interface StorageUsage {
  originals: number
  frames: number
  handoffs: number
  uploads: number
  free: number
  total: number
  isNearlyFull: boolean
}
