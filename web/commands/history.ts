import { selectionCopied, documentRestored, objectAdded, partsPasted } from '@tender-lasso/core/edits'
import { findObject, newId, type HistoryEntry, type RotoDocument, type Version } from '@tender-lasso/core/document'
import { api, wordsOf, edit, shotSession, whileOpen } from '../session'
import { say, select, setView, useShot } from '../store'

const get = useShot.getState

/** Edits before a place in the log, newest first; null: the newest of all. */
export async function historyBefore(shotId: string, before: number | null): Promise<HistoryEntry[]> {
  const from = before === null ? '' : `&before=${before}`
  return api<HistoryEntry[]>(`/api/shots/${shotId}/history?limit=100${from}`)
}

/** Documents of the past that were looked at; they never change. */
const known = new Map<string, RotoDocument>()
const MOST_KNOWN = 6

async function documentAt(sequence: number): Promise<RotoDocument | null> {
  const session = shotSession()
  if (!session) return null
  const isOpen = whileOpen()
  const name = `${session.shotId}/${sequence}`
  try {
    const document = known.get(name) ?? (await session.documentAt(sequence))
    // The moment of a shot that was left meanwhile is not for the one that is open now.
    if (!isOpen()) return null
    known.set(name, document)
    if (known.size > MOST_KNOWN) known.delete(known.keys().next().value!)
    return document
  } catch (error) {
    if (isOpen()) say('bad', `That moment cannot be opened: ${wordsOf(error)}`)
    return null
  }
}

/** The shot as it was then, as one more edit: undo comes back, and so does a later moment of the history. */
export async function goBackTo(sequence: number, words: string) {
  const then = await documentAt(sequence)
  if (!then) return
  const patches = documentRestored(get().document, then)
  if (patches.length === 0) say('said', 'The shot is as it was then')
  else if (edit(`as after: ${words}`.slice(0, 200), patches))
    say('said', `The shot is as after "${words}"; undo comes back`)
}

/** Outlines of that moment beside the present ones; once more takes them away. */
export async function compareWith(sequence: number, name: string) {
  if (get().view.compared?.name === name) return setView({ compared: null })
  const document = await documentAt(sequence)
  if (document) setView({ compared: { name, document } })
}

/** Keeps the present moment under a name. */
export function keepVersion(name: string) {
  const sequence = shotSession()?.settledAt
  if (sequence === null || sequence === undefined) {
    return say('doubtful', 'Some edits are not stored yet: keep the version when the header says "saved"')
  }
  const { author } = get()
  const version: Version = { kind: 'version', id: newId(), name, sequence, author, at: new Date().toISOString() }
  edit(`keep the version ${name}`, [objectAdded(version)])
}

/** The selected Part as it was in a version, put in as a copy. */
export async function copyPartFrom(version: Version) {
  const { document, selection, frame } = get()
  const part = selection.partId ? findObject(document, 'part', selection.partId) : undefined
  if (!part) return say('doubtful', 'Select the Part that is to be copied from the version')
  const then = await documentAt(version.sequence)
  if (!then) return
  const content = selectionCopied(then, { keys: [], pointIds: new Set(), shapeIds: [], partId: part.id }, frame)
  if (content?.kind !== 'parts') return say('doubtful', `${part.name} was not there in ${version.name}`)
  const pasted = partsPasted(get().document, content, part.subjectId, frame)
  if (edit(`copy ${part.name} from ${version.name}`, pasted.patches)) {
    select({ partId: pasted.partId, shapeIds: [], pointIds: new Set(), keys: [] })
  }
}
