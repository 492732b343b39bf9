import type { MattePreview } from './mattePreview'
import type { PlacedFill } from './plainPlate'

/**
 * The mattes as a picture for the 2D context, which takes colours that are not premultiplied. Made once a picture; most
 * pixels are bare or full and need nothing.
 */
export class MatteCanvas {
  private readonly canvas = new OffscreenCanvas(1, 1)
  private readonly context = this.canvas.getContext('2d')!
  private of: MattePreview | null = null

  /** The picture and where it lies, for drawing it on the plate. */
  placed(preview: MattePreview): PlacedFill {
    this.draw(preview)
    return { picture: this.canvas, scale: preview.scale, left: preview.box.left, top: preview.box.top }
  }

  private draw(preview: MattePreview) {
    if (this.of === preview) return
    this.of = preview
    const { left, top, right, bottom } = preview.box
    if (this.canvas.width !== right - left || this.canvas.height !== bottom - top) {
      this.canvas.width = right - left
      this.canvas.height = bottom - top
    }
    for (const { box, data } of preview.bands) {
      const image = new ImageData(straight(data), box.right - box.left, box.bottom - box.top)
      this.context.putImageData(image, 0, box.top - top)
    }
  }
}

/** Colours divided by their alpha, in a copy: the other renderer takes the same picture as it is. */
function straight(premultiplied: Uint8ClampedArray<ArrayBuffer>): Uint8ClampedArray<ArrayBuffer> {
  const out = premultiplied.slice()
  // Whole pixels first: most are bare or full.
  const pixels = new Uint32Array(out.buffer)
  for (let p = 0; p < pixels.length; p++) {
    if (pixels[p] === 0) continue
    const at = 4 * p
    const alpha = out[at + 3]!
    if (alpha === 255) continue
    const factor = 255 / alpha
    out[at]! *= factor
    out[at + 1]! *= factor
    out[at + 2]! *= factor
  }
  return out
}
