import type { MattePreview } from './mattePreview'
import type { PlacedFill } from './plainPlate'

/** The bands of a matte picture laid together for the 2D context, once a picture; a single band is taken as it is. */
export class MatteCanvas {
  private readonly canvas = new OffscreenCanvas(1, 1)
  private readonly context = this.canvas.getContext('2d')!
  private of: MattePreview | null = null

  /** The picture and where it lies, for drawing it on the plate. */
  placed(preview: MattePreview): PlacedFill {
    const { scale, box, bands } = preview
    const picture = bands.length === 1 ? bands[0]!.picture : this.laidTogether(preview)
    return { picture, scale, left: box.left, top: box.top }
  }

  private laidTogether(preview: MattePreview): OffscreenCanvas {
    if (this.of === preview) return this.canvas
    this.of = preview
    const { left, top, right, bottom } = preview.box
    this.canvas.width = right - left
    this.canvas.height = bottom - top
    for (const { box, picture } of preview.bands) this.context.drawImage(picture, 0, box.top - top)
    return this.canvas
  }
}
