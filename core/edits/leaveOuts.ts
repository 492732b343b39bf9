import { channelOf, leaveOutChannel, newId, type LeaveOut, type Patch, type Track } from '../document'
import { fieldSet } from './objects'
import { constantSet } from './constants'
import { keyPatch } from './keyPatches'
import { valuesKeyed } from './keys'

type LeaveOutOutline = Extract<LeaveOut, { kind: 'outline' }>

const outlineOf = (track: Track, { id }: LeaveOutOutline) => channelOf(track, leaveOutChannel(id))

/** An outline more that is left out: riding on the surface, in pixels of the reference frame, or keyed on a frame. */
export function leaveOutAdded(track: Track, outline: Float64Array, frame: number | 'rides'): Patch[] {
  const entry: LeaveOutOutline = { kind: 'outline', id: newId(), rides: frame === 'rides' }
  return [fieldSet(track, 'leaveOut', [...track.leaveOut, entry]), ...outlineSet(track, entry, outline, frame)]
}

/** A leave-out at a place of the list taken away, with its outline. */
export function leaveOutRemoved(track: Track, index: number): Patch[] {
  const entry = track.leaveOut[index]
  const others = track.leaveOut.filter((_, i) => i !== index)
  return [...(entry?.kind === 'outline' ? outlineTaken(track, entry) : []), fieldSet(track, 'leaveOut', others)]
}

/** The outline of a leave-out on a frame; one that rides on the surface is that on all. Plate or reference pixels as before. */
export function leaveOutShaped(track: Track, entry: LeaveOutOutline, frame: number, outline: Float64Array): Patch[] {
  const channel = outlineOf(track, entry)
  return entry.rides ? constantSet(channel, outline) : valuesKeyed(channel, frame, outline)
}

/** A leave-out made to ride on the surface, or to be keyed from a frame on: with its outline in those pixels. */
export function leaveOutRidingSet(
  track: Track,
  index: number,
  outline: Float64Array,
  frame: number | 'rides',
): Patch[] {
  const entry = track.leaveOut[index]
  if (entry?.kind !== 'outline') return []
  const other: LeaveOutOutline = { ...entry, id: newId(), rides: frame === 'rides' }
  const entries = track.leaveOut.map((one, i) => (i === index ? other : one))
  return [
    ...outlineTaken(track, entry),
    fieldSet(track, 'leaveOut', entries),
    ...outlineSet(track, other, outline, frame),
  ]
}

function outlineSet(track: Track, entry: LeaveOutOutline, outline: Float64Array, frame: number | 'rides'): Patch[] {
  const channel = outlineOf(track, entry)
  if (frame === 'rides') return constantSet(channel, outline)
  return [keyPatch(channel, frame, null, { time: frame, interpolation: 'linear', values: outline })]
}

function outlineTaken(track: Track, entry: LeaveOutOutline): Patch[] {
  const channel = outlineOf(track, entry)
  const constant: Patch[] = channel.constant ? [{ kind: 'constant', id: track.id, channel: channel.channel, before: Array.from(channel.constant), after: null }] : [] // prettier-ignore
  return [...constant, ...channel.keys.map((key) => keyPatch(channel, key.time, key, null))]
}
