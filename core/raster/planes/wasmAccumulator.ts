import { aligned, roomFor } from '../../wasm'
import type { Box } from '../../geometry'
import { BLOCK_BITS, CoverageAccumulator, ROW_PADDING, type Accumulator } from '../accumulate'
import type { FittedMatte } from '../fittedMatte'
import type { BoundaryPieces } from '../union'

export interface AccumulatorAssembly {
  memory: WebAssembly.Memory
  add(pieces: number, count: number, weight: number, left: number, top: number, width: number, height: number, stride: number, blocksInRow: number, changes: number, touched: number): void // prettier-ignore
  finish(width: number, height: number, stride: number, blocksInRow: number, changes: number, touched: number, out: number, outStride: number, isCleared: boolean): void // prettier-ignore
}

/** Pieces that are handed over at a time. */
const PIECES = 4096
/** Rows that are finished at a time for who keeps them elsewhere, and the most numbers that they have together. */
const BAND_HEIGHT = 16
const BAND_SIZE = BAND_HEIGHT * 16384
/** Room for changes and what is touched of them: address space, like that of the planes. */
const CHANGES_BYTES = 64 * 2 ** 20

/** {@link CoverageAccumulator} in WebAssembly; pictures too large for its room are left to that one. */
export class WasmAccumulator implements Accumulator {
  private box: Box = { left: 0, top: 0, right: 0, bottom: 0 }
  private stride = 0
  private blocksInRow = 0
  private readonly bandAt: number
  private readonly touchedAt: number
  private readonly changesEnd: number
  private changesAt = 0
  private isFinished = true
  private readonly plain = new CoverageAccumulator()
  private isPlain = false

  /** @param piecesAt  first byte of its room, which reaches to the end of the memory */
  constructor(
    private readonly assembly: AccumulatorAssembly,
    private readonly piecesAt: number,
  ) {
    this.bandAt = piecesAt + 32 * PIECES
    this.touchedAt = this.bandAt + 4 * BAND_SIZE
    this.changesEnd = this.touchedAt + CHANGES_BYTES
    roomFor(assembly.memory, this.changesEnd)
  }

  begin(box: Box) {
    // What came before broke off.
    if (!this.isFinished) new Uint8Array(this.assembly.memory.buffer, this.touchedAt, CHANGES_BYTES).fill(0)
    const [width, height] = [box.right - box.left, box.bottom - box.top]
    this.box = box
    this.stride = width + ROW_PADDING
    this.blocksInRow = (this.stride >> BLOCK_BITS) + 1
    this.changesAt = aligned(this.touchedAt + this.blocksInRow * height)
    this.isPlain = this.changesAt + 4 * this.stride * height > this.changesEnd || width * BAND_HEIGHT > BAND_SIZE
    if (this.isPlain) this.plain.begin(box)
    this.isFinished = this.isPlain
  }

  add(pieces: BoundaryPieces, weight = 1) {
    if (this.isPlain) return this.plain.add(pieces, weight)
    const { assembly, piecesAt, stride, blocksInRow, changesAt, touchedAt } = this
    const { left, top, right, bottom } = this.box
    const room = new Float64Array(assembly.memory.buffer, piecesAt, 4 * PIECES)
    for (let from = 0; from < pieces.length; from += 4 * PIECES) {
      const some = pieces.subarray(from, from + 4 * PIECES)
      room.set(some)
      assembly.add(piecesAt, some.length / 4, weight, left, top, right - left, bottom - top, stride, blocksInRow, changesAt, touchedAt) // prettier-ignore
    }
  }

  finish(matte: FittedMatte, isCleared = false) {
    if (this.isPlain) return this.plain.finish(matte, isCleared)
    const { assembly, stride, blocksInRow, changesAt, touchedAt, bandAt } = this
    const { left, top, right, bottom } = this.box
    const width = right - left
    const { alpha, box: whole } = matte
    const outWidth = whole.right - whole.left
    const first = (top - whole.top) * outWidth + left - whole.left
    this.isFinished = true
    if (alpha.buffer === assembly.memory.buffer) {
      return assembly.finish(width, bottom - top, stride, blocksInRow, changesAt, touchedAt, alpha.byteOffset + 4 * first, outWidth, isCleared) // prettier-ignore
    }
    const band = new Float32Array(assembly.memory.buffer, bandAt, BAND_SIZE)
    for (let row = 0; row < bottom - top; row += BAND_HEIGHT) {
      const rows = Math.min(BAND_HEIGHT, bottom - top - row)
      assembly.finish(width, rows, stride, blocksInRow, changesAt + 4 * row * stride, touchedAt + row * blocksInRow, bandAt, width, false) // prettier-ignore
      if (width === outWidth) alpha.set(band.subarray(0, rows * width), first + row * width)
      else for (let r = 0; r < rows; r++) alpha.set(band.subarray(r * width, (r + 1) * width), first + (row + r) * outWidth) // prettier-ignore
    }
  }
}
