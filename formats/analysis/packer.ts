import { HEAD, PACKED_MARK, runsIn, STEP_OF_8_BITS, wordsAt } from './packedTile'
import { lumaWeights, PLAIN_PACKER, type PictureRows, type RowPacker } from './pictureRows'
import { packWasm } from './packWasm'
import { aligned, roomFor, wasmExports } from '@tender-lasso/core/wasm'

/** What `assembly/pack.ts` exports; its comments tell the parameters. */
interface Assembly {
  memory: WebAssembly.Memory
  firstFreeByte(): number
  channels(rgb: number, isBytes: boolean, count: number, red: number, green: number, blue: number): void
  luma(rgb: number, isBytes: boolean, count: number, wr: number, wg: number, wb: number, out: number): void
  areOf8Bits(values: number, stride: number, width: number, height: number): number
  differences(values: number, stride: number, width: number, height: number, mask: number, numbers: number): void
  pack(numbers: number, count: number, runs: number, widths: number, words: number): number
}

const MOST_RUN_BYTES = 17 * 4

/** Packs in WebAssembly, many times faster than in JavaScript. */
class WasmPacker implements RowPacker {
  constructor(private readonly assembly: Assembly) {}

  packRows(rows: PictureRows, tileWidth: number): Uint8Array[][] {
    const { assembly } = this
    const { rgb, shown, width, height } = rows
    const count = width * height
    const planeBytes = aligned(2 * count + 16)
    const lumaAt = aligned(assembly.firstFreeByte())
    const [redAt, greenAt, blueAt] = [1, 2, 3].map((plane) => lumaAt + plane * planeBytes) as [number, number, number]
    const free = blueAt + planeBytes
    roomFor(assembly.memory, free + Math.max(shown.byteLength, rgb.byteLength))
    this.put(shown, free)
    assembly.luma(free, shown instanceof Uint8Array, count, ...lumaWeights(shown), lumaAt)
    if (rgb !== shown) this.put(rgb, free)
    assembly.channels(free, rgb instanceof Uint8Array, count, redAt, greenAt, blueAt)
    return [lumaAt, redAt, greenAt, blueAt].map((plane) => {
      const tiles: Uint8Array[] = []
      for (let left = 0; left < width; left += tileWidth) {
        tiles.push(this.packTile(plane + 2 * left, 2 * width, Math.min(tileWidth, width - left), height, free))
      }
      return tiles
    })
  }

  private put(values: Uint8Array | Uint16Array, at: number) {
    const bytes = new Uint8Array(values.buffer, values.byteOffset, values.byteLength)
    new Uint8Array(this.assembly.memory.buffer, at).set(bytes)
  }

  private packTile(values: number, stride: number, width: number, height: number, free: number): Uint8Array {
    const { assembly } = this
    const count = width * height
    const runs = runsIn(count)
    const numbersAt = free
    const widthsAt = numbersAt + 128 * runs + 16
    const packedAt = aligned(widthsAt + runs)
    const memory = roomFor(assembly.memory, packedAt + MOST_RUN_BYTES * runs + 8)
    const step = assembly.areOf8Bits(values, stride, width, height) ? STEP_OF_8_BITS : 1
    assembly.differences(values, stride, width, height, step === 1 ? 65535 : 255, numbersAt)
    const length = assembly.pack(numbersAt, count, runs, widthsAt, packedAt)
    const start = wordsAt(runs)
    const out = new Uint8Array(start + length)
    out[0] = PACKED_MARK
    out[2] = step & 255
    out[3] = step >> 8
    out.set(new Uint8Array(memory, widthsAt, runs), HEAD)
    out.set(new Uint8Array(memory, packedAt, length), start)
    return out
  }
}

/** Null where WebAssembly is missing or forbidden. */
export function wasmPacker(): RowPacker | null {
  const assembly = wasmExports<Assembly>(packWasm())
  return assembly && new WasmPacker(assembly)
}

let shared: RowPacker | null = null

/** The fastest that runs here. */
export const rowPacker = () => (shared ??= wasmPacker() ?? PLAIN_PACKER)
