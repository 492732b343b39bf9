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
