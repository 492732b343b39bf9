import { fieldSet } from '@tender-lasso/core/edits'
import { findObject, type Track } from '@tender-lasso/core/document'
import { say, useShot } from '../store'
import { edit } from '../session'

/**
 * A setting changed on one of the selected tracks is changed on all of them, as one edit; locked ones and those made from
 * others stay.
 *
 * @param shown     the one whose setting the artist changed
 * @param valueFor  what it is to be on a track
 * @param takes     tracks that have the setting at all
 */
export function setOnTracks<Field extends keyof Track & string>(
  shown: Track,
  label: string,
  field: Field,
  valueFor: (track: Track) => Track[Field],
  takes: (track: Track) => boolean = () => true,
) {
  const { selection, document } = useShot.getState()
  const chosen = selection.trackIds.includes(shown.id) ? selection.trackIds : [shown.id]
  const all = chosen
    .flatMap((id) => findObject(document, 'track', id) ?? [])
    .filter((track) => !track.madeFrom && takes(track))
  const free = all.filter((track) => !track.locked)
  if (free.length === 0) return say('doubtful', `${shown.name} is locked`)
  const words = free.length > 1 ? `${label}, ${free.length} tracks` : label
  const patches = free.map((track) => fieldSet(track, field, valueFor(track)))
  if (edit(words, patches) && all.length > 1) {
    const locked = all.length - free.length
    say('said', `${words}${locked > 0 ? `; ${locked} locked ones stay` : ''}`)
  }
}
