const PAGE = 65536

export const aligned = (byte: number) => (byte + 15) & ~15

/** The memory, made to reach to a byte at least. Views of it from before it grew are void. */
export function roomFor(memory: WebAssembly.Memory, end: number): ArrayBuffer {
  const missing = end - memory.buffer.byteLength
  if (missing > 0) memory.grow(Math.ceil(missing / PAGE))
  return memory.buffer
}

/** What a module exports; null where WebAssembly, or its vectors, are missing or forbidden. */
export function wasmExports<Exports>(bytes: Uint8Array<ArrayBuffer>): Exports | null {
  try {
    return new WebAssembly.Instance(new WebAssembly.Module(bytes)).exports as unknown as Exports
  } catch {
    return null
  }
}
