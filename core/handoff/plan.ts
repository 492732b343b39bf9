import { findObject, type Output, type RotoDocument } from '../document'
import { partsByDepth, shownShapesOf } from '../evaluation'
import { distinctNames, nameFrom } from './names'

/** A matte that is handed off, and what it is called in files and channels. */
export interface DeliveredMatte {
  partId: string
  name: string
}

/** The mattes that an output holds, nearest first on the shot's first frame; Parts without a shape have none. */
export function mattesOf(document: RotoDocument, { holds }: Output): DeliveredMatte[] {
  const first = findObject(document, 'shot', 'shot')?.range[0] ?? 0
  const isHeld = (partId: string, subjectId: string) =>
    holds.what === 'everything' ||
    (holds.what === 'subject' ? holds.subjectId === subjectId : holds.partIds.includes(partId))
  const parts = partsByDepth(document, first).filter(
    (part) => isHeld(part.id, part.subjectId) && shownShapesOf(document, part).shapes.length > 0,
  )
  const names = distinctNames(
    parts.map((part) => `${findObject(document, 'subject', part.subjectId)?.name ?? ''} ${part.name}`),
    'matte',
  )
  return parts.map(({ id }, i) => ({ partId: id, name: names[i]! }))
}

/** The frames of an output, its handles among them, as far as the shot has any; null where it has none of them. */
export function deliveredRange({ range, handles }: Output, shot: readonly [number, number]): [number, number] | null {
  const [first, last] = range ?? shot
  const from = Math.max(shot[0], first - handles)
  const to = Math.min(shot[1], last + handles)
  return from <= to ? [from, to] : null
}

/** One file of a frame: its name, and which mattes go into which of its channels. */
export interface Picture {
  path: string
  channels: { name: string; matte: number }[]
}

const COLOURS = ['R', 'G', 'B']

/** The files of one frame of an output. */
export function picturesOf(
  output: Output,
  mattes: readonly DeliveredMatte[],
  { shot, version, frame }: { shot: string; version: number; frame: number },
): Picture[] {
  const path = (part: string) =>
    nameFrom(output.pattern, { shot, output: output.name, part, version, frame }, output.padding)
  switch (output.layout) {
    case 'one':
      return mattes.map(({ name }, matte) => ({ path: path(name), channels: [{ name: 'Y', matte }] }))
    case 'rgb':
      return Array.from({ length: Math.ceil(mattes.length / 3) }, (_, i) => ({
        path: path(`rgb${i + 1}`),
        channels: mattes.slice(3 * i, 3 * i + 3).map((_, n) => ({ name: COLOURS[n]!, matte: 3 * i + n })),
      }))
    case 'channels':
      return [{ path: path('mattes'), channels: mattes.map(({ name }, matte) => ({ name: `${name}.A`, matte })) }]
    case 'object-id':
      return [{ path: path('ids'), channels: [] }]
    case 'white':
    case 'overlay':
    case 'cutout':
      return [{ path: path(output.layout), channels: [] }]
  }
}
