import { aligned, roomFor, wasmExports } from '../../wasm'
import type { Box } from '../../geometry'
import type { BoundaryPieces } from '../union'
import { edgeReach, exactShareOf, type EdgeProfile } from './edgeProfile'
import type { Feather } from './feather'
import { featherWasm } from './featherWasm'

/** What `assembly/feather.ts` exports; its comments tell the parameters. */
interface Assembly {
  memory: WebAssembly.Memory
  firstFreeByte(): number
  scratchBytes(count: number): number
  add(...values: number[]): void
}

/** Pixels of the blocks that the assembly ends with: its rows and columns are filled up to them. */
const LEAF = 8
const wholeLeaves = (pixels: number) => Math.ceil(pixels / LEAF) * LEAF

class WasmFeather implements Feather {
  private box: Box = { left: 0, top: 0, right: 0, bottom: 0 }
  private stride = 0
  private rows = 0
  /** Where the sums lie in memory; behind them the sides of the pixels, then coverage, pieces and scratch. */
  private readonly sumsAt: number

  constructor(private readonly assembly: Assembly) {
    this.sumsAt = aligned(assembly.firstFreeByte())
  }

  begin(box: Box) {
    this.box = box
    this.stride = wholeLeaves(box.right - box.left)
    this.rows = wholeLeaves(box.bottom - box.top)
    const memory = roomFor(this.assembly.memory, this.sumsAt + this.planeBytes)
    new Float32Array(memory, this.sumsAt, this.stride * this.rows).fill(0)
  }

  add(pieces: BoundaryPieces, coverage: Float32Array | null, edge: EdgeProfile, weight: number) {
    const { assembly, stride, sumsAt } = this
    const { left, top, right, bottom } = this.box
    const [width, height] = [right - left, bottom - top]
    const count = pieces.length / 4
    const sidesAt = sumsAt + this.planeBytes
    const coverageAt = sidesAt + this.planeBytes
    const piecesAt = coverageAt + (coverage ? this.planeBytes : 0)
    const scratchAt = piecesAt + 32 * count
    const memory = roomFor(assembly.memory, scratchAt + assembly.scratchBytes(count))
    const own = new Float64Array(memory, piecesAt, 4 * count)
    for (let i = 0; i < own.length; i += 2) {
      own[i] = pieces[i]! - left
      own[i + 1] = pieces[i + 1]! - top
    }
    if (coverage) {
      const there = new Float32Array(memory, coverageAt, stride * this.rows)
      for (let y = 0; y < height; y++) there.set(coverage.subarray(y * width, (y + 1) * width), y * stride)
    }
    const { innerFeather, outerFeather, grow } = edge
    const share = coverage ? exactShareOf(edge) : 0
    assembly.add(piecesAt, count, width, height, stride, innerFeather, outerFeather, grow, edgeReach(edge), share, weight, coverageAt, sidesAt, sumsAt, scratchAt) // prettier-ignore
  }

  finish(out: Float32Array) {
    const { left, top, right, bottom } = this.box
    const [width, height] = [right - left, bottom - top]
    const sums = new Float32Array(this.assembly.memory.buffer, this.sumsAt, this.stride * this.rows)
    for (let y = 0; y < height; y++) out.set(sums.subarray(y * this.stride, y * this.stride + width), y * width)
  }

  private get planeBytes() {
    return 4 * this.stride * this.rows
  }
}

/** Null where WebAssembly's vectors are missing or forbidden. */
export function wasmFeather(): Feather | null {
  const assembly = wasmExports<Assembly>(featherWasm())
  return assembly && new WasmFeather(assembly)
}
