import { allOf, find, type Part, type RotoDocument, type Track } from '@tender-lasso/core/document'
import { depthKeysId, keyListsOfPart, ownKeys, pivotKeysId, type KeyList } from '@tender-lasso/core/edits'
import { shapesOf } from '@tender-lasso/core/evaluation'
import { mainTrackId, type Selection, type ThreadRows } from '../../state/shotStore'
import { TRACK_LANES, type TrackLane } from './timelineTracks'

export type TimelineRow =
  /** All that has keys of a Part in one thread. */
  | { kind: 'part'; name: string; part: Part; members: readonly KeyList[]; isFolded: boolean; isPinned: boolean }
  | { kind: 'keys'; name: string; list: KeyList; part: Part }
  | { kind: 'track'; name: string; track: Track }
  | { kind: 'lane'; name: string; track: Track; lane: TrackLane }

/** The keys that a row's knots stand for. */
export function listsOf(row: TimelineRow): readonly KeyList[] {
  if (row.kind === 'part') return row.members
  return row.kind === 'keys' ? [row.list] : []
}

/**
 * Rows of what is selected, pinned or looked for: each Part's thread, below it those of its pose, its pivot, its depth and its
 * shapes when it is unfolded; then the track of what is selected with its lanes, then other selected tracks.
 */
export function rowsOf(document: RotoDocument, selection: Selection, rows: ThreadRows): TimelineRow[] {
  return [...partRows(document, selection, rows), ...trackRows(document, selection)]
}

function partRows(
  document: RotoDocument,
  selection: Selection,
  { pinned, unfolded, search }: ThreadRows,
): TimelineRow[] {
  const sought = search.trim().toLowerCase()
  const owners = selection.shapeIds.flatMap((id) => find(document, 'shape', id)?.partId ?? [])
  const isWanted = (part: Part) =>
    part.id === selection.partId ||
    owners.includes(part.id) ||
    pinned.includes(part.id) ||
    (sought !== '' && part.name.toLowerCase().includes(sought))
  return allOf(document, 'part')
    .filter(isWanted)
    .flatMap((part): TimelineRow[] => {
      const members = [...keyListsOfPart(part), ...shapesOf(document, part.id).map(ownKeys)]
      const isFolded = members.length < 2 || !unfolded.includes(part.id)
      const isPinned = pinned.includes(part.id)
      const head: TimelineRow = { kind: 'part', name: part.name, part, members, isFolded, isPinned }
      if (members.length < 2) return [head]
      const shown = isFolded ? members.filter((one) => selection.shapeIds.includes(one.id)) : members
      return [head, ...shown.map((list) => memberRow(part, list))]
    })
}

function memberRow(part: Part, list: KeyList): TimelineRow {
  const ofPart = { [part.id]: 'pose', [pivotKeysId(part.id)]: 'pivot', [depthKeysId(part.id)]: 'depth' }
  return { kind: 'keys', name: ofPart[list.id] ?? list.owner.name, list, part }
}

function trackRows(document: RotoDocument, selection: Selection): TimelineRow[] {
  const part = selection.partId ? find(document, 'part', selection.partId) : undefined
  const trackId = mainTrackId(selection) ?? part?.mover?.trackId
  const main = trackId ? find(document, 'track', trackId) : undefined
  const rows: TimelineRow[] = []
  if (main) {
    rows.push({ kind: 'track', name: main.name, track: main })
    for (const lane of TRACK_LANES) rows.push({ kind: 'lane', name: lane.name, track: main, lane })
  }
  for (const id of selection.trackIds.toReversed()) {
    const track = id === main?.id ? undefined : find(document, 'track', id)
    if (track) rows.push({ kind: 'track', name: track.name, track })
  }
  return rows
}
