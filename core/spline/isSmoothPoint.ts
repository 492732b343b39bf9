/** Whether both tangents of a point lie on one line, to either side of it, so that it is no corner. */
export function isSmoothPoint({ inX, inY, outX, outY }: Record<'inX' | 'inY' | 'outX' | 'outY', number>): boolean {
  const cross = Math.abs(inX * outY - inY * outX)
  const lengths = Math.hypot(inX, inY) * Math.hypot(outX, outY)
  return lengths > 0 && cross < 1e-3 * lengths && inX * outX + inY * outY < 0
}
