/** What ingest makes of each frame: see docs/formats.md. */
export const FRAME_TIERS = {
  display: { file: 'display.jpg', type: 'image/jpeg' },
  thumbnail: { file: 'thumbnail.jpg', type: 'image/jpeg' },
  analysis: { file: 'analysis.tlaf', type: 'application/octet-stream' },
} as const
export type FrameTier = keyof typeof FRAME_TIERS

/** Where everything is in the store: the one place that builds keys. */
export const keys = {
  /** Uploads under way. */
  uploads: 'uploads',
  /** Originals by the hash of their content, in folders by its first two letters. */
  originals: 'originals',
  originalsUnder: (twoLetters: string) => `originals/${twoLetters}`,
  original: (hash: string) => `originals/${hash.slice(0, 2)}/${hash}`,
  /** Frames made from the originals, by shot. */
  frames: 'frames',
  framesOf: (shotId: string) => `frames/${shotId}`,
  tiersOf: (shotId: string, frame: number | string) => `frames/${shotId}/${frame}`,
  frame: (shotId: string, frame: number, tier: FrameTier) => `frames/${shotId}/${frame}/${FRAME_TIERS[tier].file}`,
  /** Written hand-offs, by shot and job. */
  handoffs: 'exports',
  handoffsOf: (shotId: string) => `exports/${shotId}`,
  handoff: (shotId: string, jobId: string) => `exports/${shotId}/${jobId}`,
  below: (key: string, name: string) => `${key}/${name}`,
}
