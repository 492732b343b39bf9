import { allOf, type Part, type RotoDocument } from '@tender-lasso/core/document'
import { brokenOff, instanceMade } from '@tender-lasso/core/edits'
import { edit } from '../session'
import { say, select, selectedPart, shotRange, useShot } from '../store'
import { freeName } from './newObjects'

const get = useShot.getState

/** A name for a Part that follows another one. */
export const instanceName = (document: RotoDocument, original: Part, how: 'again' | 'reflected'): string =>
  freeName(
    `${original.name} ${how}`,
    allOf(document, 'part').map(({ name }) => name),
  )

/** The selected Part shown once more, as a new Part that follows it. */
export function showAgain() {
  const { document, frame } = get()
  const original = selectedPart()
  if (!original) return say('doubtful', 'Select the Part that is to be shown again')
  const { part, patches } = instanceMade(document, original, instanceName(document, original, 'again'), null, frame)
  if (!edit(`show ${original.name} again`, patches)) return
  select({ partId: part.id, shapeIds: [], pointIds: new Set(), keys: [] })
  say('said', `${part.name} follows ${original.name}: drag it to its own place`)
}

/** The selected Part, which follows another one, gets shapes and motion of its own. */
export function breakOff() {
  const { document } = get()
  const part = selectedPart()
  if (!part?.instance) return say('doubtful', 'Select a Part that follows another one')
  edit(`break ${part.name} off`, brokenOff(document, part, shotRange()))
}
