import { findObject, type RotoDocument } from '@tender-lasso/core/document'
import { posedPart, say, setView, useShot } from './shotStore'

const known = new WeakMap<RotoDocument, { solo: readonly string[]; document: RotoDocument }>()

/** The document as it is seen while some Parts are shown alone: all others hidden. Nothing of it is stored. */
export function withSolo(document: RotoDocument, solo: readonly string[]): RotoDocument {
  if (solo.length === 0) return document
  const last = known.get(document)
  if (last?.solo === solo) return last.document
  const objects = new Map(document.objects)
  for (const [id, object] of objects) {
    if (object.kind === 'part' && object.visible && !solo.includes(id)) objects.set(id, { ...object, visible: false })
  }
  const seen = { objects }
  known.set(document, { solo, document: seen })
  return seen
}

/** This Part alone, with those that are alone already; once more lets it go. */
export function toggleSolo(partId: string) {
  const { solo } = useShot.getState().view
  setView({ solo: solo.includes(partId) ? solo.filter((id) => id !== partId) : [...solo, partId] })
}

/** The selected Part alone, or all again. */
export function soloSelected() {
  const { document, selection, view } = useShot.getState()
  const part = posedPart() ?? (selection.partId ? findObject(document, 'part', selection.partId) : undefined)
  if (view.solo.length) return setView({ solo: [] })
  if (part) setView({ solo: [part.id] })
  else say('said', 'Select a Part to see it alone')
}
