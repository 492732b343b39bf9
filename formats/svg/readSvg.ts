import { DOMParser, type Element } from '@xmldom/xmldom'
import svgpath from 'svgpath'
import { FormatError } from '../errors'

/** A point of an outline: place, and both tangents relative to it. */
export interface PathPoint {
  x: number
  y: number
  inX: number
  inY: number
  outX: number
  outY: number
}

/** One stretch of a path without a gap. */
export interface PathOutline {
  points: PathPoint[]
  isClosed: boolean
}

const LARGEST_CHARACTERS = 4_000_000
const MOST_OUTLINES = 300
const MOST_POINTS = 4096

/**
 * Outlines of an SVG document, or of the text of a single path ("M 10 10 C ..."). Paths and basic shapes are read with
 * their transforms and those of the groups round them (SVG 2, chapters 8 to 10); arcs and quadratic curves become cubics.
 * Looks, texts, images and scripts are passed over.
 *
 * @returns outlines in user units, one unit a pixel, in the order of the document
 * @throws FormatError `not-svg` when the text is neither, `too-large`, or `empty` when it has no outline
 */
export function readSvg(text: string): PathOutline[] {
  if (text.length > LARGEST_CHARACTERS) throw new FormatError('too-large', 'The SVG is larger than 4 MB')
  const trimmed = text.trim()
  const paths = /^[mM][\s\d.,+-]/.test(trimmed) ? [trimmed] : pathsOf(trimmed)
  const outlines = paths.flatMap(outlinesOf).filter(({ points }) => points.length > 1)
  if (outlines.length === 0) throw new FormatError('empty', 'The SVG has no path or shape with an outline')
  if (outlines.length > MOST_OUTLINES || outlines.some(({ points }) => points.length > MOST_POINTS)) {
    throw new FormatError('too-large', `The SVG has more than ${MOST_OUTLINES} outlines, or one of more than ${MOST_POINTS} points`) // prettier-ignore
  }
  return outlines
}

/** Path data of all shapes of a document, transformed. */
function pathsOf(text: string): string[] {
  if (!/<svg[\s>]/.test(text))
    throw new FormatError('not-svg', 'This is neither an SVG document nor the text of a path')
  let root: Element | null
  try {
    root = new DOMParser({ onError: () => undefined }).parseFromString(text, 'image/svg+xml').documentElement
  } catch (error) {
    throw new FormatError('not-svg', `The SVG is not well formed: ${error instanceof Error ? error.message : ''}`)
  }
  return root ? pathsBelow(root, '') : []
}

function pathsBelow(element: Element, outer: string): string[] {
  const transform = `${outer} ${element.getAttribute('transform') ?? ''}`.trim()
  const name = element.localName ?? ''
  if (['defs', 'clipPath', 'mask', 'symbol', 'pattern', 'marker'].includes(name)) return []
  const data = pathDataOf(element, name)
  const own = data ? [svgpath(data).transform(transform).toString()] : []
  const children = Array.from(element.childNodes).filter((node): node is Element => node.nodeType === 1)
  return [...own, ...children.flatMap((child) => pathsBelow(child, transform))]
}

/** What a shape would be as a path (SVG 2, chapter 10: equivalent paths). */
function pathDataOf(element: Element, name: string): string | null {
  const number = (attribute: string) => Number.parseFloat(element.getAttribute(attribute) ?? '0') || 0
  switch (name) {
    case 'path':
      return element.getAttribute('d')
    case 'rect': {
      const [x, y, width, height] = ['x', 'y', 'width', 'height'].map(number) as [number, number, number, number]
      return width > 0 && height > 0 ? `M${x} ${y}h${width}v${height}h${-width}z` : null
    }
    case 'circle':
    case 'ellipse': {
      const [rx, ry] = name === 'circle' ? [number('r'), number('r')] : [number('rx'), number('ry')]
      const [cx, cy] = [number('cx'), number('cy')]
      return rx > 0 && ry > 0 ? `M${cx - rx} ${cy}a${rx} ${ry} 0 1 0 ${2 * rx} 0a${rx} ${ry} 0 1 0 ${-2 * rx} 0z` : null
    }
    case 'line':
      return `M${number('x1')} ${number('y1')}L${number('x2')} ${number('y2')}`
    case 'polygon':
    case 'polyline': {
      const points = element.getAttribute('points')?.trim()
      return points ? `M${points}${name === 'polygon' ? 'z' : ''}` : null
    }
    default:
      return null
  }
}

const SAME = 1e-6

function outlinesOf(data: string): PathOutline[] {
  const path = svgpath(data)
  // The library notes what it could not read beside the path, and its types leave that out.
  const { err } = path as { err?: string }
  if (err) throw new FormatError('not-svg', `A path cannot be read: ${err}`)
  const outlines: PathOutline[] = []
  let now: PathOutline | null = null
  const corner = (x: number, y: number): PathPoint => ({ x, y, inX: 0, inY: 0, outX: 0, outY: 0 })
  path.abs().unshort().unarc().iterate((segment, _index, x, y) => {
    const [command, ...v] = segment as [string, ...number[]]
    if (command === 'M') {
      now = { points: [corner(v[0]!, v[1]!)], isClosed: false }
      outlines.push(now)
      return
    }
    if (!now) return
    if (command === 'Z' || command === 'z') {
      close(now)
      // What follows without a new beginning starts there again.
      now = { points: [corner(now.points[0]!.x, now.points[0]!.y)], isClosed: false }
      outlines.push(now)
      return
    }
    const last = now.points.at(-1)!
    if (command === 'C') addCubic(now, last, v[0]!, v[1]!, v[2]!, v[3]!, v[4]!, v[5]!)
    else if (command === 'Q') {
      const [cx, cy, ex, ey] = v as [number, number, number, number]
      // The same parabola as a cubic: two thirds of the way to its control point.
      addCubic(now, last, x + (2 / 3) * (cx - x), y + (2 / 3) * (cy - y), ex + (2 / 3) * (cx - ex), ey + (2 / 3) * (cy - ey), ex, ey) // prettier-ignore
    } else if (command === 'H') now.points.push(corner(v[0]!, y))
    else if (command === 'V') now.points.push(corner(x, v[0]!))
    else if (command === 'L') now.points.push(corner(v[0]!, v[1]!))
  }) // prettier-ignore
  return outlines
}

function addCubic(
  outline: PathOutline,
  last: PathPoint,
  ax: number,
  ay: number,
  bx: number,
  by: number,
  x: number,
  y: number,
) {
  // prettier-ignore
  last.outX = ax - last.x
  last.outY = ay - last.y
  outline.points.push({ x, y, inX: bx - x, inY: by - y, outX: 0, outY: 0 })
}

/** A last point that lies on the first is the first, with the tangent it arrived by. */
function close(outline: PathOutline) {
  outline.isClosed = true
  const { points } = outline
  const [first, last] = [points[0]!, points.at(-1)!]
  if (points.length > 2 && Math.hypot(first.x - last.x, first.y - last.y) < SAME) {
    first.inX = last.inX
    first.inY = last.inY
    points.pop()
  }
}
