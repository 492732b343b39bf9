import {
  allOf,
  findObject,
  NEW_PART_FIELDS,
  NEW_TRACK_FIELDS,
  newId,
  type Part,
  type Patch,
  type RotoDocument,
  type Subject,
  type Track,
  constantChannel,
} from '@tender-lasso/core/document'
import { depthsOfNewParts, freeName, objectAdded } from '@tender-lasso/core/edits'
import { partsByDepth, shotPixelAspect } from '@tender-lasso/core/evaluation'
import { centroidOfVertices, squareRound } from '@tender-lasso/core/geometry'

/** The Subject that is worked on: that of what was selected last, or else the last one made; null where there is none. */
export function subjectAtHand(document: RotoDocument, lastId: string | null): string | null {
  if (lastId !== null && findObject(document, 'subject', lastId)) return lastId
  return allOf(document, 'subject').sort((a, b) => b.order - a.order)[0]?.id ?? null
}

/** Where a new Part has landed and how it is named, in words. */
export function newPartWords(document: RotoDocument, part: Part, frame: number): string {
  const order = partsByDepth(document, frame)
  const place = order.findIndex(({ id }) => id === part.id)
  const subject = findObject(document, 'subject', part.subjectId)?.name ?? ''
  const inFront = order[place - 1]
  const where = inFront ? `behind ${inFront.name}` : 'in front of all'
  return `${part.name} of ${subject}, ${where}: F2 names it`
}

export function newSubject(document: RotoDocument, name = 'Subject'): Subject {
  const subjects = allOf(document, 'subject')
  return {
    kind: 'subject',
    id: newId(),
    name: freeName(
      name,
      subjects.map((s) => s.name),
    ),
    hue: subjects.length % 8,
    order: Math.max(-1, ...subjects.map((s) => s.order)) + 1,
  }
}

/** A Part of the Subject named or of a new one, turned about `pivot`, in front of all that do not stay in front of it. */
export function newPart(
  document: RotoDocument,
  subjectId: string | null,
  pivot: readonly [number, number] = middleOfPlate(document),
): { part: Part; patches: Patch[] } {
  const patches: Patch[] = []
  if (subjectId === null) {
    const subject = newSubject(document)
    patches.push(objectAdded(subject))
    subjectId = subject.id
  }
  const siblings = allOf(document, 'part').filter((p) => p.subjectId === subjectId)
  const part: Part = {
    ...NEW_PART_FIELDS,
    id: newId(),
    subjectId,
    parentId: null,
    name: freeName(
      'Part',
      siblings.map((p) => p.name),
    ),
    shade: siblings.length % 12,
    channels: { depth: constantChannel(depthsOfNewParts(document).depth) },
    pivot: [...pivot],
  }
  patches.push(objectAdded(part))
  return { part, patches }
}

function middleOfPlate(document: RotoDocument): [number, number] {
  const shot = findObject(document, 'shot', 'shot')
  return [(shot?.width ?? 0) / 2, (shot?.height ?? 0) / 2]
}

/** Behind all tracks of the list. */
export const nextTrackOrder = (document: RotoDocument) =>
  Math.max(-1, ...allOf(document, 'track').map((track) => track.order)) + 1

export function newTrack(document: RotoDocument, frame: number, region: readonly number[]): Track {
  const tracks = allOf(document, 'track')
  return {
    ...NEW_TRACK_FIELDS,
    kind: 'track',
    id: newId(),
    name: freeName(
      'Track',
      tracks.map((t) => t.name),
    ),
    model: 'perspective',
    order: nextTrackOrder(document),
    referenceFrame: frame,
    outlines: [Float64Array.from(region)],
    minimumMatch: 0.8,
    pivot: centroidOfVertices(region),
    pixelAspect: shotPixelAspect(document),
    blocks: [],
  }
}

/** Tracked back to the frame before, a good point misses by less (pixels). */
const USUAL_RETURN_ERROR = 0.7

/** A point track: a square pattern round a place, `half` pixels to each side. */
export function newPointTrack(document: RotoDocument, frame: number, x: number, y: number, half: number): Track {
  const names = allOf(document, 'track').map((track) => track.name)
  return {
    ...newTrack(document, frame, squareRound(x, y, half)),
    name: freeName('Point', names),
    surface: 'point',
    model: 'position',
    mostReturnError: USUAL_RETURN_ERROR,
    pivot: [x, y],
  }
}
