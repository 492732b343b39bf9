import { PLAIN_UNPACKER, type PackedTile, type TileUnpacker } from './packedTile'
import { unpackWasm } from './unpackWasm'
import { aligned, roomFor, wasmExports } from '@tender-lasso/core/wasm'

/** What `assembly/unpack.ts` exports; its comments tell the parameters. */
interface Assembly {
  memory: WebAssembly.Memory
  firstFreeByte(): number
  differences(widths: number, runs: number, words: number, numbers: number): void
  values(numbers: number, width: number, height: number, scale: number, out: number): void
}

const RUN_BYTES = 4 * 32

/** Unpacks in WebAssembly, several times faster than in JavaScript. */
class WasmUnpacker implements TileUnpacker {
  constructor(private readonly assembly: Assembly) {}

  unpack({ widths, words }: PackedTile, width: number, height: number, scale: number, into: Float32Array) {
    const { assembly } = this
    const count = width * height
    const widthsAt = assembly.firstFreeByte()
    const wordsAt = aligned(widthsAt + widths.length)
    const numbersAt = aligned(wordsAt + words.length)
    const outAt = numbersAt + RUN_BYTES * widths.length
    const memory = roomFor(assembly.memory, outAt + 4 * count)
    const bytes = new Uint8Array(memory)
    bytes.set(widths, widthsAt)
    bytes.set(words, wordsAt)
    assembly.differences(widthsAt, widths.length, wordsAt, numbersAt)
    assembly.values(numbersAt, width, height, scale, outAt)
    into.set(new Float32Array(memory, outAt, count))
  }
}

/** Null where WebAssembly is missing or forbidden. */
export function wasmUnpacker(): TileUnpacker | null {
  const assembly = wasmExports<Assembly>(unpackWasm())
  return assembly && new WasmUnpacker(assembly)
}

let shared: TileUnpacker | null = null

/** The fastest that runs here. */
export const tileUnpacker = () => (shared ??= wasmUnpacker() ?? PLAIN_UNPACKER)
