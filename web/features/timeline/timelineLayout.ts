/** Where things lie on the timeline, CSS pixels. */
export interface TimelineLayout {
  width: number
  height: number
  /** Room for the names of the rows. */
  nameWidth: number
  first: number
  last: number
  /** How far the rows are scrolled up. */
  scroll: number
}

export const RULER_HEIGHT = 18
export const THUMBNAIL_HEIGHT = 34
export const ROW_HEIGHT = 20
export const ROWS_TOP = RULER_HEIGHT + THUMBNAIL_HEIGHT + 6
/** From the left: the sign that unfolds a Part; from the right of the name: the pin. */
export const FOLD_WIDTH = 18
export const PIN_WIDTH = 18

export function xOfFrame(layout: TimelineLayout, frame: number): number {
  const room = layout.width - layout.nameWidth - 14
  return layout.nameWidth + ((frame - layout.first + 0.5) / (layout.last - layout.first + 1)) * room
}

/** Frame at a place, within the range. */
export function frameOfX(layout: TimelineLayout, x: number): number {
  return Math.min(layout.last, Math.max(layout.first, Math.floor(timeOfX(layout, x) + 0.5)))
}

/** Time at a place, fractions and beyond the range as well. */
export function timeOfX(layout: TimelineLayout, x: number): number {
  const room = layout.width - layout.nameWidth - 14
  return ((x - layout.nameWidth) / room) * (layout.last - layout.first + 1) + layout.first - 0.5
}

/** Thumbnails side by side, as many as fit: which frame each shows and where it begins. */
export function thumbnailSlots(layout: TimelineLayout, aspect: number): { frame: number; x: number; width: number }[] {
  const width = THUMBNAIL_HEIGHT * aspect
  const length = layout.last - layout.first + 1
  const room = layout.width - layout.nameWidth - 14
  const count = Math.max(1, Math.min(length, Math.floor(room / (width + 2))))
  return Array.from({ length: count }, (_, i) => {
    const middle = (i + 0.5) / count
    return { frame: layout.first + Math.floor(middle * length), x: layout.nameWidth + middle * room - width / 2, width }
  })
}

/** Index of the row at a height, whether there is one or not; -1 above the rows. */
export function rowAt(layout: TimelineLayout, y: number): number {
  return y < ROWS_TOP ? -1 : Math.floor((y - ROWS_TOP + layout.scroll) / ROW_HEIGHT)
}

/** Height of the middle of a row. */
export function middleOfRow(layout: TimelineLayout, index: number): number {
  return ROWS_TOP - layout.scroll + (index + 0.5) * ROW_HEIGHT
}
