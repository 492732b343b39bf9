import {
  clipboardContent,
  clipboardText,
  keysPasted,
  objectAdded,
  objectsDeleted,
  partsPasted,
  pointsPasted,
  selectionCopied,
  shapesPasted,
  type ClipboardContent,
} from '@tender-lasso/core/edits'
import { findObject } from '@tender-lasso/core/document'
import { edit, whileOpen } from '../session'
import { say, select, stillThere, useShot } from '../store'
import { importSvg, looksLikeSvg, type PastedOnto } from './importSvg'
import { editReaching, keyingNow } from './keying'
import { newPart, newSubject } from './newObjects'
import { counted } from '../words/counted'

const get = useShot.getState

/** One of a kind. */
const KIND_WORDS: Record<ClipboardContent['kind'], string> = {
  keys: 'key',
  points: 'point',
  shapes: 'shape',
  parts: 'Part',
}
function countOf(content: ClipboardContent): number {
  switch (content.kind) {
    case 'keys':
      return content.carried.length
    case 'points':
      return content.points.length
    case 'shapes':
      return content.shapes.length
    case 'parts':
      return content.parts.length
  }
}

/** What was copied last, for browsers that do not let a page read the clipboard. */
let lastCopied: string | null = null
/** Reading the clipboard waits for what is on its way there: a paste at once after a copy pastes the copy. */
let copying: Promise<unknown> = Promise.resolve()

export function copySelected(): boolean {
  const { document, selection, frame } = get()
  const content = selectionCopied(document, selection, frame)
  if (!content) {
    say('said', 'Nothing is selected to copy')
    return false
  }
  lastCopied = clipboardText(content)
  copying = navigator.clipboard?.writeText(lastCopied).catch(() => undefined)
  const count = countOf(content)
  say('said', `Copied ${counted(count, KIND_WORDS[content.kind])}`)
  return true
}

export function cutSelected() {
  const { document, selection } = get()
  if (!copySelected() || selection.keys.length || selection.pointIds.size) return
  const ids = selection.shapeIds.length ? selection.shapeIds : selection.partId ? [selection.partId] : []
  edit('cut', objectsDeleted(document, ids))
}

/**
 * Onto the frame and what is selected as it is asked for: the clipboard answers later, and the artist may have gone on
 * to another frame by then.
 */
export async function pasteHere() {
  const { frame, selection } = get()
  const isOpen = whileOpen()
  await copying
  const text = (await navigator.clipboard?.readText().catch(() => null)) ?? lastCopied
  if (!isOpen()) return
  const onto = { frame, selection: stillThere(get().document, selection) }
  if (text && looksLikeSvg(text)) return importSvg(text, onto)
  const content = (text ? clipboardContent(text) : null) ?? (lastCopied ? clipboardContent(lastCopied) : null)
  if (!content) return say('said', 'Nothing of a shot is on the clipboard')
  paste(content, onto)
}

/** Copy and paste in one: the same things once more. */
export function duplicateSelected() {
  const { document, selection, frame } = get()
  const content = selectionCopied(document, { ...selection, pointIds: new Set(), keys: [] }, frame)
  if (content) paste(content, { frame, selection })
  else say('said', 'Select a shape or a Part to duplicate')
}

function paste(content: ClipboardContent, { frame, selection }: PastedOnto) {
  const { document } = get()
  switch (content.kind) {
    case 'keys': {
      const onto = selection.shapeIds[0] ?? selection.partId
      const pasted = keysPasted(document, content, onto, frame)
      if (edit(`paste ${counted(content.carried.length, 'key')} on ${frame}`, pasted.patches))
        select({ keys: pasted.chosen })
      return
    }
    case 'points': {
      const patches = pointsPasted(document, content, selection, frame, keyingNow())
      if (patches) editReaching(`paste points on ${frame}`, patches)
      else say('doubtful', `Select ${content.points.length} points that are to lie there`)
      return
    }
    case 'shapes': {
      const there = findObject(document, 'part', selection.partId ?? content.shapes[0]!.partId)
      const made = there ? { part: there, patches: [] } : newPart(document, null)
      const pasted = shapesPasted(withPart(made.part), content, made.part)
      if (edit(`paste ${content.shapes.length === 1 ? 'a shape' : 'shapes'}`, [...made.patches, ...pasted.patches])) {
        select({ partId: pasted.partId, shapeIds: pasted.shapeIds, pointIds: new Set(), keys: [] })
      }
      return
    }
    case 'parts': {
      const known = findObject(document, 'subject', content.parts[0]!.subjectId)
      const selected = selection.partId ? findObject(document, 'part', selection.partId)?.subjectId : undefined
      const subject = known || selected ? null : newSubject(document)
      const pasted = partsPasted(document, content, known?.id ?? selected ?? subject!.id, frame)
      if (edit(`paste ${content.parts[0]!.name}`, [...(subject ? [objectAdded(subject)] : []), ...pasted.patches])) {
        select({ partId: pasted.partId, shapeIds: [], pointIds: new Set(), keys: [] })
      }
    }
  }
}

/** The document with a Part that is about to be made: shapes are put into its space. */
function withPart(part: ReturnType<typeof newPart>['part']) {
  const { document } = get()
  return document.objects.has(part.id) ? document : { objects: new Map(document.objects).set(part.id, part) }
}
