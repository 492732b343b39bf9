import { expose } from 'comlink'
import { positionMapsZip, type PositionMapsOfTrack } from '@tender-lasso/formats/positionMaps'

/** Position maps beside the page: each of many frames takes about a tenth of a second. */
const positionMapsWorker = {
  /** @param onFrame  told how many frames are done */
  async write(maps: PositionMapsOfTrack, onFrame: (done: number) => void): Promise<Blob> {
    const pieces: Blob[] = []
    for await (const bytes of positionMapsZip(maps)) {
      // The browser keeps blobs outside the memory of the page.
      pieces.push(new Blob(bytes as Uint8Array<ArrayBuffer>[]))
      onFrame(Math.min(pieces.length, maps.frames.length))
    }
    return new Blob(pieces, { type: 'application/zip' })
  },
}

export type PositionMapsWorker = typeof positionMapsWorker
expose(positionMapsWorker)
