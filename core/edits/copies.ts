import { linearAbout } from '../geometry'
import { mappedPoints } from '../evaluation'
import { allOf, newId, POSE, type Key, type Part, type Pin, type RotoDocument, type Shape } from '../document'
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
  return {
    ...shape,
    id,
    pointIds: renewed(shape.pointIds),
    movedPoints: shape.movedPoints.map((group) => ({ ...group, pointIds: renewed(group.pointIds) })),
    keys: shape.keys.map((key) => (key.touched ? { ...key, touched: renewed(key.touched) } : key)),
  }
}

const pinLater = (pin: Pin | null, frames: number): Pin | null =>
  pin?.to === 'keys' ? { ...pin, keys: pin.keys.map((key) => ({ ...key, frame: key.frame + frames })) } : pin

const later = (keys: readonly Key[], frames: number) => keys.map((key) => ({ ...key, time: key.time + frames }))

/** All keys of a family so many frames later, or earlier. */
export function familyDelayed({ parts, shapes }: Family, frames: number): Family {
  return {
    parts: parts.map((part) => ({ ...part, keys: later(part.keys, frames), pin: pinLater(part.pin, frames) })),
    shapes: shapes.map((shape) => ({ ...shape, keys: later(shape.keys, frames) })),
  }
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
    parts: parts.map((part) => ({
      ...part,
      pivot: place(part.pivot),
      pin: pinMirrored(part.pin, place),
      keys: part.keys.map((key) => ({ ...key, values: poseMirrored(key.values) })),
    })),
    shapes: shapes.map((shape) => ({
      ...shape,
      pivot: shape.pivot?.to === 'shape' ? { ...shape.pivot, place: place(shape.pivot.place) } : shape.pivot,
      keys: shape.keys.map((key) => ({ ...key, values: mappedPoints(key.values, mirror) })),
    })),
  }
}

function pinMirrored(pin: Pin | null, mirrored: (place: readonly [number, number]) => [number, number]): Pin | null {
  if (pin?.to === 'parent') return { ...pin, place: mirrored(pin.place) }
  if (pin?.to === 'keys') return { ...pin, keys: pin.keys.map((key) => ({ ...key, place: mirrored(key.place) })) }
  return pin
}

function poseMirrored(values: Float64Array): Float64Array {
  const out = values.slice()
  out[POSE.x] = -values[POSE.x]!
  out[POSE.rotation] = -values[POSE.rotation]!
  return out
}
