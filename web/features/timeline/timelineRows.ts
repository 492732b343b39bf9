import { allOf, findObject, firstChannel, keyedChannels, type ChannelOf, type Part, type RotoDocument, type Shot, type Track } from '@tender-lasso/core/document' // prettier-ignore
import { shapesOf } from '@tender-lasso/core/evaluation'
import { mainTrackId, type Selection, type ThreadRows } from '../../store'
import { TRACK_LANES, type TrackLane } from './timelineTracks'

export type TimelineRow =
  /** All that has keys of a Part in one thread. */
  | { kind: 'part'; name: string; part: Part; members: readonly ChannelOf[]; isFolded: boolean; isPinned: boolean }
  /** Keys of one channel; of a shape or a Part that Part's, else null. */
  | { kind: 'keys'; name: string; channel: ChannelOf; part: Part | null }
  | { kind: 'track'; name: string; track: Track }
  | { kind: 'lane'; name: string; track: Track; lane: TrackLane }

/** The channels whose keys a row's knots stand for. */
export function channelsOf(row: TimelineRow): readonly ChannelOf[] {
  if (row.kind === 'part') return row.members
  return row.kind === 'keys' ? [row.channel] : []
}

/**
 * Rows of what is selected, pinned or looked for: each Part's thread, below it those of all that is keyed of it and of its
 * shapes when it is unfolded; then the track of what is selected with its lanes and its keys, then other selected tracks;
 * then what of the shot itself is keyed.
 */
export function rowsOf(document: RotoDocument, selection: Selection, rows: ThreadRows): TimelineRow[] {
  return [...partRows(document, selection, rows), ...trackRows(document, selection), ...shotRows(document)]
}

function partRows(
  document: RotoDocument,
  selection: Selection,
  { pinned, unfolded, search }: ThreadRows,
): TimelineRow[] {
  const sought = search.trim().toLowerCase()
  const owners = selection.shapeIds.flatMap((id) => findObject(document, 'shape', id)?.partId ?? [])
  const isWanted = (part: Part) =>
    part.id === selection.partId ||
    owners.includes(part.id) ||
    pinned.includes(part.id) ||
    (sought !== '' && part.name.toLowerCase().includes(sought))
  return allOf(document, 'part')
    .filter(isWanted)
    .flatMap((part): TimelineRow[] => {
      const members = [part, ...shapesOf(document, part.id)].flatMap(keyedChannels)
      const isFolded = members.length < 2 || !unfolded.includes(part.id)
      const isPinned = pinned.includes(part.id)
      const head: TimelineRow = { kind: 'part', name: part.name, part, members, isFolded, isPinned }
      if (members.length < 2) return [head]
      const shown = isFolded ? members.filter((one) => selection.shapeIds.includes(one.id)) : members
      return [head, ...shown.map((channel) => memberRow(part, channel))]
    })
}

function memberRow(part: Part, channel: ChannelOf): TimelineRow {
  return { kind: 'keys', name: nameOf(channel), channel, part }
}

/** An outline goes by the name of its shape; what else is keyed of a shape stands below it. */
const nameOf = (channel: ChannelOf): string =>
  channel.object.kind === 'shape' && !isBelowItsShape(channel)
    ? channel.object.name
    : channel.definition.label.toLowerCase()

/** True for what is keyed of a shape beside its outline. */
export const isBelowItsShape = ({ object, channel }: ChannelOf) =>
  object.kind === 'shape' && channel !== firstChannel('shape')

const keyRows = (object: Track | Shot): TimelineRow[] =>
  keyedChannels(object).map((channel) => ({ kind: 'keys', name: nameOf(channel), channel, part: null }))

function shotRows(document: RotoDocument): TimelineRow[] {
  const shot = findObject(document, 'shot', 'shot')
  return shot ? keyRows(shot) : []
}

function trackRows(document: RotoDocument, selection: Selection): TimelineRow[] {
  const part = selection.partId ? findObject(document, 'part', selection.partId) : undefined
  const trackId = mainTrackId(selection) ?? part?.mover?.trackId
  const main = trackId ? findObject(document, 'track', trackId) : undefined
  const rows: TimelineRow[] = []
  if (main) {
    rows.push({ kind: 'track', name: main.name, track: main })
    for (const lane of TRACK_LANES) rows.push({ kind: 'lane', name: lane.name, track: main, lane })
    rows.push(...keyRows(main))
  }
  for (const id of selection.trackIds.toReversed()) {
    const track = id === main?.id ? undefined : findObject(document, 'track', id)
    if (track) rows.push({ kind: 'track', name: track.name, track })
  }
  return rows
}
