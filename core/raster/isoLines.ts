/**
 * Lines along which a picture has one value, by marching squares between the centres of its pixels (Lorensen & Cline 1987, in the plane): straight pieces
 * x0, y0, x1, y1 in pixels from the left and top of the picture. Where four pixels say both, the mean of them decides.
 */
export function isoLines(values: ArrayLike<number>, width: number, height: number, level: number): number[] {
  const out: number[] = []
  for (let y = 0; y + 1 < height; y++) {
    for (let x = 0; x + 1 < width; x++) {
      const at = y * width + x
      const [a, b, c, d] = [values[at]!, values[at + 1]!, values[at + width + 1]!, values[at + width]!]
      const code = (a > level ? 1 : 0) | (b > level ? 2 : 0) | (c > level ? 4 : 0) | (d > level ? 8 : 0)
      if (code === 0 || code === 15) continue
      const [left, top] = [x + 0.5, y + 0.5]
      const share = (from: number, to: number) => (level - from) / (to - from)
      const sides = {
        top: () => [left + share(a, b), top],
        right: () => [left + 1, top + share(b, c)],
        bottom: () => [left + share(d, c), top + 1],
        left: () => [left, top + share(a, d)],
      }
      const join = (from: keyof typeof sides, to: keyof typeof sides) => out.push(...sides[from](), ...sides[to]())
      // Which sides are crossed, with the larger values on the right of the way.
      const isFull = (a + b + c + d) / 4 > level
      if (code === 1) join('top', 'left')
      else if (code === 2) join('right', 'top')
      else if (code === 3) join('right', 'left')
      else if (code === 4) join('bottom', 'right')
      else if (code === 6) join('bottom', 'top')
      else if (code === 7) join('bottom', 'left')
      else if (code === 8) join('left', 'bottom')
      else if (code === 9) join('top', 'bottom')
      else if (code === 11) join('right', 'bottom')
      else if (code === 12) join('left', 'right')
      else if (code === 13) join('top', 'right')
      else if (code === 14) join('left', 'top')
      else if (code === 5) {
        join('top', isFull ? 'right' : 'left')
        join('bottom', isFull ? 'left' : 'right')
      } else {
        join('right', isFull ? 'bottom' : 'top')
        join('left', isFull ? 'top' : 'bottom')
      }
    }
  }
  return out
}
