import { hasHoldouts, type Output, type RotoDocument } from '../document'
import { sceneAt } from '../evaluation'
import { subTimesOf, type Scene, type ScenePart } from '../raster'
import { mattesOf, type DeliveredMatte } from './plan'
import { withoutSoftness } from './withoutSoftness'

/** Where outlines are looked at while the shutter is open. Odd steps: what repeats within the shutter is not taken for still. */
const LOOKS = [0, 0.131, 0.25, 0.371, 0.5, 0.633, 0.75, 0.877, 1]
const MIDDLE = [0.5]

/** Raised whenever the same document gives other pixels: what others keep of before is then asked for again. */
const RENDERING = 2

/** What an output shows on a frame. */
export interface FrameView {
  scene: Scene
  mattes: DeliveredMatte[]
}

/** The scene of an output and the mattes that are made of it. */
export function frameView(document: RotoDocument, output: Output, frame: number): FrameView {
  return {
    scene: withoutSoftness(sceneAt(document, frame, output.scale), output),
    mattes: mattesOf(document, output),
  }
}

/**
 * All that the pixels of an output hang on, on one frame, as bytes: two frames with the same bytes look the same, whatever else of the document differs. Of what stands
 * in front of the mattes only what cuts them counts; what touches them counts by how many sub-times of the shutter it asks for. Outlines are looked at on nine places of the open shutter.
 */
export function frameInputs({ scene, mattes }: FrameView, output: Output): Uint8Array {
  const { layout, format, compression, window, scale, motionBlur, primaries, notes } = output
  const words = JSON.stringify([
    RENDERING,
    layout,
    format,
    compression,
    window,
    scale,
    motionBlur,
    mattes,
    primaries,
    notes,
  ])
  const bytes = new Bytes()
  bytes.text(words)
  const subTimes = motionBlur ? subTimesOf(scene) : null
  for (const part of partsThatCount(scene, mattes, output)) {
    const { id, holdsOut, spares, partitions, finish } = part
    bytes.text(JSON.stringify([id, holdsOut, spares, partitions, finish, subTimes?.get(id)]))
    for (const group of part.groups) {
      const { operation, edge, focus, opacity } = group
      bytes.text(JSON.stringify([operation, edge, focus, opacity]))
      group.focusedOutlines?.().forEach(({ outline, sigmas }) => bytes.numbers(outline).numbers(sigmas))
      for (const u of motionBlur ? LOOKS : MIDDLE) {
        const wide = group.wideOutlinesAt?.(u)
        if (wide) wide.forEach(({ outline, pointWidths }) => bytes.numbers(outline).numbers(pointWidths ?? []))
        else group.outlinesAt(u).forEach((outline) => bytes.numbers(outline))
      }
    }
  }
  return bytes.all()
}

/** Those that have a matte, and those before the farthest of them that may cut one. */
function partsThatCount({ parts }: Scene, mattes: readonly DeliveredMatte[], output: Output): ScenePart[] {
  const held = new Set(mattes.map(({ partId }) => partId))
  const farthest = parts.findLastIndex(({ id }) => held.has(id))
  const partners = new Set(parts.flatMap(({ id, partitions }) => (held.has(id) ? (partitions ?? []) : [])))
  return parts.filter(
    ({ id, holdsOut }, i) => held.has(id) || (i < farthest && ((hasHoldouts(output) && holdsOut) || partners.has(id))),
  )
}

/** Bytes one behind the other, each piece after its length, so that no two lists of pieces are the same bytes. */
class Bytes {
  private room = new Uint8Array(1 << 14)
  private length = 0

  numbers(values: ArrayLike<number>): this {
    const list = Float64Array.from(values)
    return this.piece(new Uint8Array(list.buffer))
  }

  text(words: string): this {
    return this.piece(new TextEncoder().encode(words))
  }

  private piece(bytes: Uint8Array): this {
    const needed = this.length + 4 + bytes.length
    if (needed > this.room.length) {
      const larger = new Uint8Array(Math.max(needed, 2 * this.room.length))
      larger.set(this.room.subarray(0, this.length))
      this.room = larger
    }
    new DataView(this.room.buffer).setUint32(this.length, bytes.length, true)
    this.room.set(bytes, this.length + 4)
    this.length = needed
    return this
  }

  all(): Uint8Array {
    return this.room.slice(0, this.length)
  }
}
