import { allOf, newId, type Bookmark } from '@tender-lasso/core/document'
import { objectAdded, objectsDeleted } from '@tender-lasso/core/edits'
import { goTo, say, useShot } from '../store'
import { edit } from '../session'

const get = useShot.getState

/** A bookmark of the present frame, or of the stretch that is marked; on a frame that has one it is taken away. */
export function addBookmark() {
  const { document, frame, range } = get()
  const [from, to] = range ?? [frame, frame]
  const there = allOf(document, 'bookmark').find((mark) => mark.range[0] === from && mark.range[1] === to)
  if (there) return edit(`take the bookmark ${there.name} away`, objectsDeleted(document, [there.id]))
  const name = String(allOf(document, 'bookmark').length + 1)
  const mark: Bookmark = { kind: 'bookmark', id: newId(), name: `Mark ${name}`, range: [from, to] }
  return edit(`bookmark ${from === to ? from : `${from} to ${to}`}`, [objectAdded(mark)])
}

/** To the next beginning of a bookmark, or back. */
export function goToBookmark(direction: 1 | -1) {
  const { document, frame } = get()
  const frames = allOf(document, 'bookmark').map(({ range }) => range[0])
  const ahead = frames.filter((at) => (at - frame) * direction > 0).sort((a, b) => (a - b) * direction)
  if (ahead[0] === undefined) say('said', 'No bookmark that way')
  else goTo(ahead[0])
}
