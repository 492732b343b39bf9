import {
  brokenReference,
  channelOf,
  findObject,
  newId,
  sameValue,
  type DocumentObject,
  type Patch,
  type RotoDocument,
  type Shot,
} from '../document'
import { freeName } from './freeName'
import { outputNames } from './outputs'
import { constantSet } from './constants'
import { objectAdded } from './objects'

/** What is taken over from another shot's objects, or why nothing can be. */
export type Taken = { patches: Patch[]; parts: number } | string

/**
 * Objects of another shot made part of this one: Subjects, Parts, shapes, tracks and what ties them, and of a whole shot its bookmarks, guides and outputs. Into a
 * shot without Parts a whole shot brings its shutter along, so that its mattes are the same. Ids that are taken are given anew.
 */
export function shotTaken(document: RotoDocument, objects: readonly DocumentObject[]): Taken {
  const shot = findObject(document, 'shot', 'shot')
  const theirs = objects.find((object) => object.kind === 'shot')
  if (!shot) return 'this shot has no settings'
  if (theirs && !hasSamePlate(shot, theirs)) {
    return `it was cut on a plate of ${plateWords(theirs)}, this one is ${plateWords(shot)}`
  }
  const isBare = ![...document.objects.values()].some(({ kind }) => kind === 'part')
  const wanted = withFreeIds(
    document,
    objects.filter(({ kind }) => kind !== 'shot' && kind !== 'version'),
  )
  const patches: Patch[] = []
  if (theirs && isBare) patches.push(...channelsTaken(shot, theirs))
  const names = outputNames(document)
  for (const object of wanted) {
    if (object.kind !== 'output') patches.push(objectAdded(object))
    else if (!hasOutput(document, object)) {
      const name = freeName(object.name, names)
      names.push(name)
      patches.push(objectAdded({ ...object, name }))
    }
  }
  if (patches.length === 0) return 'there is nothing in it that this shot does not have'
  const after = new Map(document.objects)
  for (const patch of patches) if (patch.kind === 'object') after.set(patch.id, patch.after!)
  const broken = brokenReference(document, { objects: after }, new Set(patches.map(({ id }) => id)))
  if (broken !== null) return broken
  return { patches, parts: wanted.filter(({ kind }) => kind === 'part').length }
}

/** The shutter as the other shot has it. */
function channelsTaken(shot: Shot, theirs: Shot): Patch[] {
  const names = new Set([...Object.keys(shot.channels), ...Object.keys(theirs.channels)])
  return [...names].flatMap((name): Patch[] => {
    const [own, wanted] = [channelOf(shot, name), channelOf(theirs, name)]
    const at = { id: shot.id, channel: name }
    return [
      ...own.keys.map((key): Patch => ({ kind: 'key', ...at, time: key.time, before: key, after: null })),
      ...constantSet(own, wanted.constant!),
      ...wanted.keys.map((key): Patch => ({ kind: 'key', ...at, time: key.time, before: null, after: key })),
    ]
  })
}

const hasSamePlate = (a: Shot, b: Shot) =>
  a.width === b.width && a.height === b.height && a.pixelAspect === b.pixelAspect

const plateWords = ({ width, height, pixelAspect }: Shot) =>
  `${width} × ${height}${pixelAspect === 1 ? '' : ` with pixels ${pixelAspect} wide`}`

/** Whether there is one that gives the same, by whatever id. */
const hasOutput = (document: RotoDocument, output: DocumentObject) =>
  [...document.objects.values()].some(
    (one) => one.kind === 'output' && sameValue({ ...one, id: '', order: 0 }, { ...output, id: '', order: 0 }),
  )

/** Text for people: what stands there is no id, whatever it looks like. */
const WORDS: ReadonlySet<string> = new Set(['name', 'notes'])

function withFreeIds(document: RotoDocument, objects: readonly DocumentObject[]): DocumentObject[] {
  const renamed = new Map(objects.filter(({ id }) => document.objects.has(id)).map(({ id }) => [id, newId()]))
  if (renamed.size === 0) return [...objects]
  const walked = (value: unknown): unknown => {
    if (typeof value === 'string') return renamed.get(value) ?? value
    if (value instanceof Float64Array || typeof value !== 'object' || value === null) return value
    if (Array.isArray(value)) return value.map(walked)
    return Object.fromEntries(
      Object.entries(value).map(([key, inner]) => [key, WORDS.has(key) || key === 'kind' ? inner : walked(inner)]),
    )
  }
  return objects.map((object) => walked(object) as DocumentObject)
}
