/** What the rest of the interface may ask of the viewer. */
export interface ViewerPort {
  /** The whole picture, as large as it fits. */
  fit(): void
  /** A screen pixel a plate pixel. */
  oneToOne(): void
  /** A key that the tool in the hand may want. Returns whether it has taken it. */
  offered(key: 'Enter' | 'Escape'): boolean
}

let connected: ViewerPort | null = null

/** The viewer on screen; null while there is none. */
export const viewer = () => connected

/** Returns what ends the connection. */
export function connectViewer(port: ViewerPort): () => void {
  connected = port
  return () => {
    if (connected === port) connected = null
  }
}
