const PAGE = 65536

export const aligned = (byte: number) => (byte + 15) & ~15

/** The memory, made to reach to a byte at least. Views of it from before it grew are void. */
export function roomFor(memory: WebAssembly.Memory, end: number): ArrayBuffer {
  const missing = end - memory.buffer.byteLength
  if (missing > 0) memory.grow(Math.ceil(missing / PAGE))
  return memory.buffer
}
