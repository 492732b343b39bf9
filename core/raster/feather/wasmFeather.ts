import { aligned, roomFor, wasmExports } from '../../wasm'
import type { Box } from '../../geometry'
import { putPixels, type FittedMatte } from '../fittedMatte'
import { followingPieces, type BoundaryPieces } from '../union'
import { edgeReach, exactShareOf, integralOf, type EdgeProfile } from './edgeProfile'
import type { Feather } from './feather'
import { featherWasm } from './featherWasm'

/** What `assembly/feather.ts` exports; its comments tell the parameters. */
interface Assembly {
  memory: WebAssembly.Memory
  firstFreeByte(): number
  add(...values: (number | boolean)[]): void
}

/** The assembly looks at four pixels at a time: rows are filled up to them. */
const wholeFours = (pixels: number) => Math.ceil(pixels / 4) * 4

class WasmFeather implements Feather {
  private box: Box = { left: 0, top: 0, right: 0, bottom: 0 }
  private stride = 0
  private rows = 0
  /** Nothing was added yet: what is in the sums does not count. */
  private isEmpty = true
  /** Where the sums lie in memory; behind them the turns of the winding number, squared distances, coverage and pieces. */
  private readonly sumsAt: number
  /** What follows what, of boundaries that are asked for strip by strip. */
  private readonly following = new WeakMap<BoundaryPieces, Int32Array>()

  constructor(private readonly assembly: Assembly) {
    this.sumsAt = aligned(assembly.firstFreeByte())
  }

  begin(box: Box) {
    this.box = box
    this.stride = wholeFours(box.right - box.left)
    this.rows = box.bottom - box.top
    const memory = roomFor(this.assembly.memory, this.sumsAt + 2 * this.planeBytes)
    new Float32Array(memory, this.sumsAt + this.planeBytes, this.stride * this.rows).fill(0)
    this.isEmpty = true
  }

  add(pieces: BoundaryPieces, coverage: Float32Array | null, edge: EdgeProfile, weight: number) {
    const { assembly, stride, sumsAt } = this
    const { left, top, right, bottom } = this.box
    const [width, height] = [right - left, bottom - top]
    const count = pieces.length / 4
    const turnsAt = sumsAt + this.planeBytes
    const squaresAt = turnsAt + this.planeBytes
    const coverageAt = squaresAt + this.planeBytes
    const piecesAt = coverageAt + (coverage ? this.planeBytes : 0)
    const nextAt = piecesAt + 32 * count
    const memory = roomFor(assembly.memory, nextAt + 4 * count)
    const own = new Float64Array(memory, piecesAt, 4 * count)
    own.set(pieces)
    let following = this.following.get(pieces)
    if (!following) this.following.set(pieces, (following = followingPieces(pieces)))
    new Int32Array(memory, nextAt, count).set(following)
    if (coverage) {
      const there = new Float32Array(memory, coverageAt, stride * this.rows)
      for (let y = 0; y < height; y++) there.set(coverage.subarray(y * width, (y + 1) * width), y * stride)
    }
    const { innerFeather, outerFeather, grow, falloff } = edge
    const [a, b, c] = integralOf(falloff)
    const share = coverage ? exactShareOf(edge) : 0
    assembly.add(piecesAt, nextAt, count, left, top, width, height, stride, innerFeather, outerFeather, grow, a, b, c, edgeReach(edge), share, weight, coverageAt, turnsAt, squaresAt, sumsAt, this.isEmpty) // prettier-ignore
    this.isEmpty = false
  }

  finish(out: FittedMatte) {
    const sums = new Float32Array(this.assembly.memory.buffer, this.sumsAt, this.stride * this.rows)
    if (this.isEmpty) sums.fill(0)
    putPixels(sums, this.box, out, this.stride)
  }

  private get planeBytes() {
    return aligned(4 * this.stride * this.rows)
  }
}

/** Null where WebAssembly's vectors are missing or forbidden. */
export function wasmFeather(): Feather | null {
  const assembly = wasmExports<Assembly>(featherWasm())
  return assembly && new WasmFeather(assembly)
}
