import { aligned, roomFor, wasmExports } from '../../wasm'
import { sizeOf } from '../fittedMatte'
import { PlainPlanes } from './plainPlanes'
import { overlapOf, type Plane, type Planes } from './planes'
import { planesWasm } from './planesWasm'
import { WasmAccumulator, type AccumulatorAssembly } from './wasmAccumulator'

/** What `assembly/planes.ts` exports; its comments tell the parameters. */
interface Assembly extends AccumulatorAssembly {
  memory: WebAssembly.Memory
  firstFreeByte(): number
  addShare(sum: number, values: number, count: number, share: number): void
  cut(own: number, ownStride: number, front: number, frontStride: number, out: number, outStride: number, columns: number, rows: number): void // prettier-ignore
  addCut(sum: number, own: number, stride: number, front: number, frontStride: number, columns: number, rows: number, share: number): void // prettier-ignore
}

/**
 * Room for planes in the assembly's memory: address space that costs nothing until it is written. What does not fit lies
 * outside of it and is worked on by the reference. It never grows, since that would void what was taken.
 */
const ROOM_BYTES = 96 * 2 ** 20

class WasmPlanes implements Planes {
  /** Bytes. */
  taken = 0
  readonly accumulator: WasmAccumulator
  private readonly plain = new PlainPlanes()
  private readonly start: number

  constructor(private readonly assembly: Assembly) {
    this.start = aligned(assembly.firstFreeByte())
    roomFor(assembly.memory, this.start + ROOM_BYTES)
    this.accumulator = new WasmAccumulator(assembly, this.start + ROOM_BYTES)
  }

  take(size: number): Float32Array {
    const at = this.taken
    this.taken = aligned(at + 4 * size)
    return this.taken > ROOM_BYTES
      ? new Float32Array(size)
      : new Float32Array(this.assembly.memory.buffer, this.start + at, size)
  }

  addShare(sum: Float32Array, values: Float32Array, size: number, share: number) {
    if (this.holds(sum, values)) this.assembly.addShare(sum.byteOffset, values.byteOffset, size, share)
    else this.plain.addShare(sum, values, size, share)
  }

  cut(own: Plane, front: Plane, out: Float32Array) {
    const { values, box } = own
    if (!this.holds(values, front.values, out)) return this.plain.cut(own, front, out)
    const { rows, width, frontWidth, at, frontAt, columns } = overlapOf(box, front.box)
    if (values !== out && columns < width) out.set(values.subarray(0, sizeOf(box)))
    if (columns === 0) return
    this.assembly.cut(values.byteOffset + 4 * at, width, front.values.byteOffset + 4 * frontAt, frontWidth, out.byteOffset + 4 * at, width, columns, rows) // prettier-ignore
  }

  addCut(sum: Float32Array, own: Plane, front: Plane, share: number) {
    const { values, box } = own
    if (!this.holds(sum, values, front.values)) return this.plain.addCut(sum, own, front, share)
    const { rows, width, frontWidth, at, frontAt, columns } = overlapOf(box, front.box)
    for (let row = 0; columns < width && row < rows; row++) {
      const start = 4 * row * width
      const [to, from] = [sum.byteOffset + start, values.byteOffset + start]
      const beyond = 4 * (at + columns)
      this.assembly.addShare(to, from, at, share)
      this.assembly.addShare(to + beyond, from + beyond, width - at - columns, share)
    }
    if (columns === 0) return
    this.assembly.addCut(sum.byteOffset + 4 * at, values.byteOffset + 4 * at, width, front.values.byteOffset + 4 * frontAt, frontWidth, columns, rows, share) // prettier-ignore
  }

  private holds(...all: Float32Array[]): boolean {
    return all.every(({ buffer }) => buffer === this.assembly.memory.buffer)
  }
}

/** Null where WebAssembly's vectors are missing or forbidden. */
export function wasmPlanes(): Planes | null {
  const assembly = wasmExports<Assembly>(planesWasm())
  return assembly && new WasmPlanes(assembly)
}
