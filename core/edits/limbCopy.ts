import { allOf, findObject, type Part, type RotoDocument, type Patch, constantChannel } from '../document'
import { familyDelayed, familyMirrored, familyOf, familyRenewed } from './copies'
import { freeName } from './freeName'
import { depthsOf, objectAdded } from './objects'

export interface LimbCopy {
  /** The copy is the mirror image about an upright line through the pivot of what carries the limb. */
  isMirrored: boolean
  /** Frames by which its keys come later. */
  delay: number
}

/**
 * A limb made once more with all that it carries and all its keys, behind everything that is there. Its Movers are those of
 * the original.
 *
 * @returns the patches, and the Part that is the copy of `part`
 */
export function limbCopied(
  document: RotoDocument,
  part: Part,
  { isMirrored, delay }: LimbCopy,
): { patches: Patch[]; partId: string } {
  const parent = part.parentId === null ? undefined : findObject(document, 'part', part.parentId)
  const axis = (parent ?? part).pivot[0]
  const renewed = familyDelayed(familyRenewed(familyOf(document, part.id)), delay)
  const { parts, shapes } = isMirrored ? familyMirrored(renewed, axis) : renewed
  const farthest = Math.max(...allOf(document, 'part').flatMap(depthsOf))
  const names = new Set(allOf(document, 'part').map(({ name }) => name))
  const copies = parts.map((copy, i) => ({
    ...copy,
    name: nameOfCopy(copy.name, isMirrored, names),
    channels: { ...copy.channels, depth: constantChannel(farthest + 1 + parts.length - i) },
    shade: (copy.shade + 1) % 12,
  }))
  return { patches: [...copies, ...shapes].map(objectAdded), partId: copies[0]!.id }
}

const SIDES = [['near', 'far'], ['left', 'right']] as const // prettier-ignore

/** "near hand" mirrored is "far hand"; otherwise the name with a number that nobody has. */
function nameOfCopy(name: string, isMirrored: boolean, taken: Set<string>): string {
  const sides = isMirrored ? SIDES.flatMap(([a, b]) => [[a, b], [b, a]] as const) : [] // prettier-ignore
  const side = sides.find(([from]) => new RegExp(`\\b${from}\\b`).test(name))
  const base = side ? name.replace(new RegExp(`\\b${side[0]}\\b`), side[1]) : name
  const free = freeName(base, taken)
  taken.add(free)
  return free
}
