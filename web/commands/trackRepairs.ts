import {
  bridgedByTrack,
  bridgeMade,
  gapAround,
  objectAdded,
  patternSet,
  rangeCleared,
  tracksCombined,
  trackCombinedAgain,
} from '@tender-lasso/core/edits'
import { findObject, newId, type Combination, type Track } from '@tender-lasso/core/document'
import { frameState, motionSamplesOf, patchesWithoutSamples, rawSamplesOf } from '@tender-lasso/core/evaluation'
import { trackOutlinesOn } from '@tender-lasso/core/tracks'
import { sampledMatrix, strayFrames } from '@tender-lasso/core/motion'
import { wordsOf, edit } from '../session'
import { nextTrackOrder } from './newObjects'
import { mainTrackId, onlyTracks, say, select, shotRange, useShot } from '../store'

/** Acts on the selected track at the present frame; each is one edit. */
function withTrack(act: (track: Track, frame: number) => void) {
  const { selection, document, frame } = useShot.getState()
  const id = mainTrackId(selection)
  const track = id ? findObject(document, 'track', id) : undefined
  if (!track) say('doubtful', 'Select a track first')
  else if (track.locked) say('doubtful', `${track.name} is locked`)
  else act(track, frame)
}

/**
 * The stretch to repair: the marked range where the artist stands in it; else the gap round the frame; else the doubtful frames round it. The ends
 * are known frames that stay.
 */
function stretchAround(track: Track, frame: number): [number, number] | null {
  const marked = useShot.getState().range
  const raw = rawSamplesOf(track)
  // A mark left over elsewhere is not what the artist stands at.
  if (marked && frame >= marked[0] - 1 && frame <= marked[1] + 1) {
    const [from, to] = [marked[0] - 1, marked[1] + 1]
    return sampledMatrix(raw, from) && sampledMatrix(raw, to) ? [from, to] : null
  }
  const gap = gapAround(track, frame)
  if (gap) return gap
  if (frameState(track, frame) !== 'doubtful') return null
  const isBad = (f: number) => ['doubtful', 'missing'].includes(frameState(track, f))
  const [first, last] = shotRange()
  let [from, to] = [frame, frame]
  while (from >= first && isBad(from)) from--
  while (to <= last && isBad(to)) to++
  return from >= first && to <= last ? [from, to] : null
}

const NO_STRETCH = 'Mark a stretch with good frames on both sides (Shift-drag below the picture), or stand in a gap'

export function bridgeHere() {
  withTrack((track, frame) => {
    const stretch = stretchAround(track, frame)
    if (!stretch) return say('doubtful', NO_STRETCH)
    if (edit(`bridge ${track.name} from ${stretch[0]} to ${stretch[1]}`, bridgeMade(track, ...stretch))) {
      say('said', `${track.name}: Bridge over ${stretch[1] - stretch[0] - 1} frames`)
    }
  })
}

export function bridgeByTrack(otherId: string) {
  withTrack((track, frame) => {
    const other = findObject(useShot.getState().document, 'track', otherId)
    const stretch = stretchAround(track, frame)
    if (!other || !stretch) return say('doubtful', NO_STRETCH)
    const patches = bridgedByTrack(track, motionSamplesOf(other), ...stretch)
    if (patches.length === 0) return say('doubtful', `${other.name} is not known from ${stretch[0]} to ${stretch[1]}`)
    edit(`bridge ${track.name} by ${other.name}`, patches)
  })
}

/** Takes the samples of the marked range away. */
export function clearStretch() {
  withTrack((track) => {
    const { range } = useShot.getState()
    if (!range) return say('doubtful', 'Mark the frames to clear first: Shift-drag below the picture')
    const [from, to] = range
    const words = from === to ? `on ${from}` : `from ${from} to ${to}`
    const patches = rangeCleared(track, from, to)
    if (patches.length === 0) return say('said', `${track.name} has nothing ${words}`)
    if (edit(`clear ${track.name} ${words}`, patches)) say('said', `${track.name} is cleared ${words}`)
  })
}

/** The picture of this frame becomes what the frames beyond are compared with. */
export function renewPattern() {
  withTrack((track, frame) => {
    const outlines = trackOutlinesOn(track, frame)
    const patches = outlines && frame !== track.referenceFrame ? patternSet(track, frame, outlines) : null
    if (!patches) return say('doubtful', `${track.name} is not known here, or this is its reference frame`)
    if (edit(`new pattern for ${track.name} on ${frame}`, patches)) {
      say('said', `From ${frame} on ${track.name} is compared with this frame; what is tracked so far stays`)
    }
  })
}

/** A copy of the selected track, free to be changed. */
export function duplicateTrack() {
  withTrack((track) => {
    const { document } = useShot.getState()
    const copy = { ...track, id: newId(), name: `${track.name} copy`, order: nextTrackOrder(document) }
    if (edit(`copy ${track.name}`, [objectAdded(copy)])) select(onlyTracks([copy.id]))
  })
}

/** A new track out of the selected ones. */
export function combineSelected(how: Combination) {
  const { selection, document, frame } = useShot.getState()
  const tracks = selection.trackIds.flatMap((id) => findObject(document, 'track', id) ?? [])
  const least = how === 'points' ? 1 : 2
  if (tracks.length < least)
    return say('doubtful', `Select ${least === 2 ? 'two or more' : 'one or more'} tracks (Shift-click)`)
  const name = `${{ average: 'Average of', join: 'Joined from', points: 'From' }[how]} ${tracks.length > 3 ? `${tracks.length} tracks` : tracks.map((t) => t.name).join(', ')}` // prettier-ignore
  try {
    const { track, patches } = tracksCombined(tracks, how, frame, {
      name: name.slice(0, 120),
      order: nextTrackOrder(document),
    })
    if (edit(`combine ${tracks.length} tracks`, patches)) {
      select(onlyTracks([track.id]))
    }
  } catch (error) {
    say('doubtful', wordsOf(error))
  }
}

/**
 * Of the selected points those that go another way than their neighbours lose what they have from there on, away from
 * their reference frame; one edit.
 */
export function cullStrays() {
  const { selection, document } = useShot.getState()
  const tracks = selection.trackIds.flatMap((id) => findObject(document, 'track', id) ?? []).filter((t) => !t.locked)
  if (tracks.length < 6) return say('doubtful', 'Select six points or more of one surface: neighbours tell who strays')
  const reference = tracks[0]!.referenceFrame
  const strays = strayFrames(tracks.map(motionSamplesOf), reference)
  let count = 0
  const patches = tracks.flatMap((track, i) => {
    const { firstFrame, present } = rawSamplesOf(track)
    const later = strays[i]!.find((frame) => frame > track.referenceFrame)
    const earlier = strays[i]!.findLast((frame) => frame < track.referenceFrame)
    if (later === undefined && earlier === undefined) return []
    count++
    return patchesWithoutSamples(track, [
      ...framesFrom(later ?? Infinity, firstFrame + present.length - 1),
      ...framesFrom(firstFrame, earlier ?? -Infinity),
    ])
  })
  if (count === 0) return say('said', `None of the ${tracks.length} points strays from its neighbours`)
  if (edit(`cull ${count} strays`, patches)) say('said', `${count} of ${tracks.length} points end where they stray`)
}

const framesFrom = (first: number, last: number) =>
  Array.from({ length: Math.max(0, last - first + 1) || 0 }, (_, i) => first + i)

/** Makes a combined track anew from what its sources are now. */
export function combineAgain(track: Track) {
  if (!track.madeFrom) return
  try {
    const patches = trackCombinedAgain(useShot.getState().document, track)
    if (patches) edit(`combine ${track.name} again`, patches)
    else say('doubtful', 'One of the tracks it was made from is gone')
  } catch (error) {
    say('doubtful', wordsOf(error))
  }
}

/** Repairs with keys of their own. */
export const REPAIRS = [
  { words: 'Bridge the stretch', keys: 'b', run: bridgeHere },
  { words: 'Clear the marked stretch', keys: 'shift+Delete', run: clearStretch },
  { words: 'Take a new pattern on this frame', keys: 'n', run: renewPattern },
] as const
