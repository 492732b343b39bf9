import { allOf, findObject, type Part, type RotoDocument } from '@tender-lasso/core/document'
import { shownShapesOf } from '@tender-lasso/core/evaluation'
import { brokenOff, freeName, instanceMade, subjectInstanced } from '@tender-lasso/core/edits'
import { edit } from '../session'
import { say, select, selectedPart, shotRange, useShot } from '../store'
import { newSubject } from './newObjects'

const get = useShot.getState

/** A name for a Part that follows another one. */
export const instanceName = (
  document: RotoDocument,
  original: Pick<Part, 'name'>,
  how: 'again' | 'reflected',
): string =>
  freeName(
    `${original.name} ${how}`,
    allOf(document, 'part').map(({ name }) => name),
  )

/** The selected Part, or those of its shapes that are selected, shown once more, as a new Part that follows it. */
export function showAgain() {
  const { document, frame, selection } = get()
  const original = selectedPart()
  if (!original) return say('doubtful', 'Select the Part or the shapes that are to be shown again')
  const own = shownShapesOf(document, original).shapes.map(({ id }) => id)
  const chosen = own.filter((id) => selection.shapeIds.includes(id))
  const shapeIds = chosen.length > 0 && chosen.length < own.length ? chosen : null
  const [only, ...others] = shapeIds ?? []
  const shape = only && others.length === 0 ? findObject(document, 'shape', only) : undefined
  const name = instanceName(document, shape ?? original, 'again')
  const { part, patches } = instanceMade(document, original, name, null, frame, shapeIds)
  if (!edit(`show ${(shape ?? original).name} again`, patches)) return
  select({ partId: part.id, shapeIds: [], pointIds: new Set(), keys: [] })
  say('said', `${part.name} follows ${(shape ?? original).name}: drag it to its own place`)
}

/** A Subject, or that of the selected Part, shown once more as a whole: a Subject whose Parts follow its own and hang on one that is placed. */
export function showSubjectAgain(subjectId: string | undefined = selectedPart()?.subjectId) {
  const { document, frame } = get()
  const original = subjectId === undefined ? undefined : findObject(document, 'subject', subjectId)
  if (!original) return say('doubtful', 'Select a Part of the Subject that is to be shown again')
  const subject = newSubject(document, `${original.name} again`)
  const nameOf = (part: Part) => instanceName(document, part, 'again')
  const made = subjectInstanced(document, original, subject, nameOf, frame)
  if (!made) return say('doubtful', `${original.name} has no Parts that could be shown again`)
  if (!edit(`show ${original.name} again`, made.patches)) return
  select({ partId: made.carrier.id, shapeIds: [], pointIds: new Set(), keys: [] })
  say('said', `${subject.name} follows ${original.name}: drag it to its own place`)
}

/** The selected Part, which follows another one, gets shapes and motion of its own. */
export function breakOff() {
  const { document } = get()
  const part = selectedPart()
  if (!part?.instance) return say('doubtful', 'Select a Part that follows another one')
  if (edit(`break ${part.name} off`, brokenOff(document, part, shotRange())))
    say('said', `${part.name} has shapes and motion of its own now`)
}
