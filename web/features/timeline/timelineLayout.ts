/** Where things lie on the timeline, CSS pixels. */
export interface TimelineLayout {
  width: number
  height: number
  /** Room for the names of the rows. */
  nameWidth: number
  first: number
  last: number
}

export const RULER_HEIGHT = 18
export const THUMBNAIL_HEIGHT = 34
export const ROW_HEIGHT = 20
export const ROWS_TOP = RULER_HEIGHT + THUMBNAIL_HEIGHT + 6

export function xOfFrame(layout: TimelineLayout, frame: number): number {
  const room = layout.width - layout.nameWidth - 14
  return layout.nameWidth + ((frame - layout.first + 0.5) / (layout.last - layout.first + 1)) * room
}

export function frameOfX(layout: TimelineLayout, x: number): number {
  const room = layout.width - layout.nameWidth - 14
  const frame = Math.floor(((x - layout.nameWidth) / room) * (layout.last - layout.first + 1)) + layout.first
  return Math.min(layout.last, Math.max(layout.first, frame))
}
