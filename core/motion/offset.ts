/** Where another place than the one followed is reported, in plate pixels. */
export interface OffsetAt {
  frame: number
  x: number
  y: number
}

/** Offset at a frame: straight between keys, the nearest key's outside them, nothing without keys. */
export function offsetAt(keys: readonly OffsetAt[], frame: number): [number, number] {
  if (keys.length === 0) return [0, 0]
  const next = keys.findIndex((key) => key.frame >= frame)
  if (next === 0) return [keys[0]!.x, keys[0]!.y]
  if (next < 0) return [keys.at(-1)!.x, keys.at(-1)!.y]
  const [a, b] = [keys[next - 1]!, keys[next]!]
  const u = (frame - a.frame) / (b.frame - a.frame)
  return [a.x + u * (b.x - a.x), a.y + u * (b.y - a.y)]
}
