import { PLAIN_UNPACKER, type PackedTile, type TileUnpacker } from './packedTile'
import { unpackWasm } from './unpackWasm'

/** What `assembly/unpack.ts` exports; its comments tell the parameters. */
interface Assembly {
  memory: WebAssembly.Memory
  firstFreeByte(): number
  differences(widths: number, runs: number, words: number, numbers: number): void
  values(numbers: number, width: number, height: number, scale: number, out: number): void
}

const PAGE = 65536
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
    const missing = outAt + 4 * count - assembly.memory.buffer.byteLength
    if (missing > 0) assembly.memory.grow(Math.ceil(missing / PAGE))
    const bytes = new Uint8Array(assembly.memory.buffer)
    bytes.set(widths, widthsAt)
    bytes.set(words, wordsAt)
    assembly.differences(widthsAt, widths.length, wordsAt, numbersAt)
    assembly.values(numbersAt, width, height, scale, outAt)
    into.set(new Float32Array(assembly.memory.buffer, outAt, count))
  }
}

const aligned = (byte: number) => (byte + 15) & ~15

/** Null where WebAssembly is missing or forbidden. */
export function wasmUnpacker(): TileUnpacker | null {
  try {
    const { exports } = new WebAssembly.Instance(new WebAssembly.Module(unpackWasm()))
    return new WasmUnpacker(exports as unknown as Assembly)
  } catch {
    return null
  }
}

let shared: TileUnpacker | null = null

/** The fastest that runs here. */
export const tileUnpacker = () => (shared ??= wasmUnpacker() ?? PLAIN_UNPACKER)
