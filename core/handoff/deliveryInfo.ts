/** How far the writing of a delivery is. */
export type DeliveryState = 'queued' | 'running' | 'done' | 'failed' | 'cancelled'

/** A delivery as a list shows it. */
export interface DeliveryInfo {
  jobId: string
  outputId: string
  version: number
  state: DeliveryState
  message: string | null
  range: [number, number]
  /** The edit of the log up to which it is made. */
  sequence: number
  /** Frames. */
  done: number
  total: number
  at: string
}

/** How far an output's latest whole delivery is behind the shot. */
export interface Behind {
  /** Edits since then that touched what the output shows. */
  edits: number
  /** The Parts that they touched. */
  partIds: string[]
}

/** What is handed off of a shot: how far it is behind, and what was delivered. */
export interface HandoffStatus {
  outputs: {
    outputId: string
    /** null: never delivered whole. */
    behind: Behind | null
  }[]
  /** Newest first. */
  deliveries: DeliveryInfo[]
}
