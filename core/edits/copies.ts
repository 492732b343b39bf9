import { linearAbout } from '../geometry'
import { mappedPoints } from '../evaluation'
import {
  allOf,
  newId,
  POSE,
  type Part,
  type Channel,
  type Channels,
  type RotoDocument,
  type Shape,
  outlineKeys,
  poseKeys,
  pivotKeys,
  withKeys,
  withOutlineKeys,
} from '../document'
import { withDescendants } from './descendants'

/** Parts with their shapes, parents before children. */
export interface Family {
  parts: readonly Part[]
  shapes: readonly Shape[]
}

/** A Part, all that it carries, and their shapes. */
export function familyOf(document: RotoDocument, partId: string): Family {
  const parts = withDescendants(document, partId)
  const ids = new Set(parts.map(({ id }) => id))
  return { parts, shapes: allOf(document, 'shape').filter((shape) => ids.has(shape.partId)) }
}

/** The same family as new objects: what refers to one of them refers to its copy. */
export function familyRenewed({ parts, shapes }: Family): Family {
  const ids = new Map([...parts, ...shapes].map(({ id }) => [id, newId()]))
  const renewed = (id: string | null) => (id === null ? null : (ids.get(id) ?? id))
  return {
    parts: parts.map((part) => ({ ...part, id: ids.get(part.id)!, parentId: renewed(part.parentId) })),
    shapes: shapes.map((shape) => shapeRenewed({ ...shape, partId: renewed(shape.partId)! }, ids.get(shape.id)!)),
  }
}

/** A shape under another id, its points under others, too. */
export function shapeRenewed(shape: Shape, id = newId()): Shape {
  const ids = new Map(shape.pointIds.map((pointId) => [pointId, newId()]))
  const renewed = (pointIds: readonly string[]) => pointIds.flatMap((pointId) => ids.get(pointId) ?? [])
  const keys = outlineKeys(shape).map((key) => (key.touched ? { ...key, touched: renewed(key.touched) } : key))
  return {
    ...withOutlineKeys(shape, keys),
    id,
    pointIds: renewed(shape.pointIds),
    blurWeights: Object.fromEntries(
      Object.entries(shape.blurWeights).flatMap(([pointId, weight]) => renewed([pointId]).map((own) => [own, weight])),
    ),
    movedPoints: shape.movedPoints.map((group) => ({ ...group, pointIds: renewed(group.pointIds) })),
  }
}

/** All keys of a family so many frames later, or earlier. */
export function familyDelayed({ parts, shapes }: Family, frames: number): Family {
  return {
    parts: parts.map((part) => ({ ...part, channels: channelsDelayed(part.channels, frames) })),
    shapes: shapes.map((shape) => ({ ...shape, channels: channelsDelayed(shape.channels, frames) })),
  }
}

function channelsDelayed<C extends Channels>(channels: C, frames: number): C {
  const later = (channel: Channel): Channel => ({
    ...channel,
    keys: channel.keys.map((key) => ({ ...key, time: key.time + frames })),
  })
  return Object.fromEntries(Object.entries(channels).map(([name, channel]) => [name, later(channel)])) as C
}

/**
 * A family as its mirror image about an upright line of the space that carries it, in all its poses: with F the mirror,
 * each pose P becomes F P F and each point p becomes F p, so that World' p' = C F (P ... p) at every time.
 *
 * @param x  where the line stands, in the space that carries the first Part
 */
export function familyMirrored({ parts, shapes }: Family, x: number): Family {
  const mirror = linearAbout(x, 0, -1, 0, 0, 1)
  const place = ([px, py]: readonly [number, number]): [number, number] => [2 * x - px, py]
  return {
    parts: parts.map((part) => {
      const pose = poseKeys(part).map((key) => ({ ...key, values: poseMirrored(key.values) }))
      const held = pivotKeys(part).map((key) => ({ ...key, values: Float64Array.of(2 * x - key.values[0]!, key.values[1]!) })) // prettier-ignore
      return {
        ...part,
        pivot: place(part.pivot),
        pin: part.pin?.to === 'parent' ? { ...part.pin, place: place(part.pin.place) } : part.pin,
        channels: withKeys(withKeys(part.channels, 'pose', pose), 'pivot', held),
      }
    }),
    shapes: shapes.map((shape) => ({
      ...withOutlineKeys(
        shape,
        outlineKeys(shape).map((key) => ({ ...key, values: mappedPoints(key.values, mirror) })),
      ),
      pivot: shape.pivot?.to === 'shape' ? { ...shape.pivot, place: place(shape.pivot.place) } : shape.pivot,
    })),
  }
}

function poseMirrored(values: Float64Array): Float64Array {
  const out = values.slice()
  out[POSE.x] = -values[POSE.x]!
  out[POSE.rotation] = -values[POSE.rotation]!
  return out
}
