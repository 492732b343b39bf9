import { findObject, movedByTrack, type ChannelOf, channelOf, isSameChannel } from '@tender-lasso/core/document'
import {
  channelsOfKeys,
  interpolationSet,
  keyAdded,
  poseKeyAdded,
  keyDeleted,
  keysDeleted,
  objectsDeleted,
  pointsRemovedFrom,
  poseChanged,
  poseMoved,
  sampleNudged,
} from '@tender-lasso/core/edits'
import { translation } from '@tender-lasso/core/geometry'
import {
  sayDeviations,
  toggleGuide,
  editReaching,
  keyingNow,
  setEditing,
  copySelected,
  cutSelected,
  duplicateSelected,
  growSelection,
  mirrorSelected,
  pasteHere,
  repeatKeys,
  reverseKeys,
  selectAll,
  selectAllUnder,
  selectNextUnder,
  toggleCorners,
  stepInDepth,
  turnBendOver,
  renameSelected,
  breakSeams,
  tieSelected,
  toggleHidden,
  toggleHole,
  showAgain,
  showSubjectAgain,
} from '../../../commands'
import { posedPart, say, select, selectedKeyed, selectedShapes, useShot } from '../../../store'
import { edit } from '../../../session'
import { mapPatches } from '../../../selection'
import type { Command } from './command'

const get = useShot.getState

/** Takes away the smallest thing that is selected: keys, points, tracks, shapes, the Part. */
function removeSelected() {
  const { document, selection, frame } = get()
  if (selection.keys.length) {
    if (edit('delete keys', keysDeleted(document, selection.keys))) select({ keys: [] })
    return
  }
  if (selection.pointIds.size) {
    const results = selectedShapes().map((shape) => ({
      shape,
      ...pointsRemovedFrom(document, shape, selection.pointIds),
    }))
    const patches = results.flatMap((result) => result.patches)
    if (patches.length === 0) return say('doubtful', 'A shape keeps at least two points')
    if (!edit('remove points', patches)) return
    select({ pointIds: new Set() })
    sayDeviations(results.flatMap(({ deviations }) => deviations))
    return
  }
  if (selection.trackIds.length) {
    const [used] = selection.trackIds.flatMap((id) => movedByTrack(document, id))
    if (used)
      return say('doubtful', `${used.name} is moved by one of these tracks: drop it there, or archive the track`)
    const many = selection.trackIds.length > 1
    edit(many ? 'delete tracks' : 'delete the track', objectsDeleted(document, selection.trackIds))
    return
  }
  if (selection.shapeIds.length) edit('delete shapes', objectsDeleted(document, selection.shapeIds))
  else if (selection.partId) edit('delete the Part', objectsDeleted(document, [selection.partId]))
  else say('said', `Nothing is selected on frame ${frame}`)
}

function nudge(dx: number, dy: number) {
  const { document, frame, selection } = get()
  if (selection.shapeIds.length === 0 && selection.trackIds.length) {
    const tracks = selection.trackIds.flatMap((id) => findObject(document, 'track', id) ?? [])
    edit(
      `nudge on ${frame}`,
      tracks.filter((track) => !track.locked).flatMap((track) => sampleNudged(track, frame, dx, dy)),
    )
    return
  }
  const part = posedPart()
  if (part) {
    const moved = part.locked ? null : poseMoved(document, part, frame, dx, dy)
    if (moved) editReaching(`nudge ${part.name}`, poseChanged(document, part, frame, moved, keyingNow()))
    else say('doubtful', `${part.name} is ${part.locked ? 'locked' : 'pinned: turn it, or let its pivot go'}`)
    return
  }
  const state = get()
  const shapes = selectedShapes()
  if (shapes.length === 0) return say('said', 'Select a shape, points or a track to nudge')
  const context = { document, frame, keying: keyingNow(state), softness: state.editing.softness }
  editReaching('nudge', mapPatches(context, shapes, selection.pointIds, translation(dx, dy)))
}

function addKeyHere() {
  const { document, frame } = get()
  const chosen = selectedKeyed()
  if (chosen.length === 0) return say('said', 'Select a shape or a Part to key it')
  edit(
    `key on ${frame}`,
    chosen.flatMap((keyed) =>
      keyed.kind === 'part' ? poseKeyAdded(document, keyed, frame) : keyAdded(channelOf(keyed), frame),
    ),
  )
}

function deleteKeyHere() {
  const { frame } = get()
  edit(
    `delete the key on ${frame}`,
    selectedKeyed().flatMap((keyed) => keyDeleted(channelOf(keyed), frame)),
  )
}

/** The chosen keys run on otherwise to the next; with none chosen all keys of what is selected. */
function toggleInterpolation() {
  const { frame, document, selection } = get()
  const isChosen = selection.keys.length > 0
  const channels = isChosen
    ? channelsOfKeys(document, selection.keys)
    : selectedKeyed().map((keyed) => channelOf(keyed))
  const timesOf = (channel: ChannelOf) =>
    (isChosen ? selection.keys.filter((key) => isSameChannel(key, channel)) : channel.keys).map(({ time }) => time)
  // What can run on in one way alone does not say what comes next.
  const free = channels.filter(({ definition }) => definition.interpolations.length > 1)
  const [first] = free
  if (!first) return say('said', channels.length ? 'These keys hold until the next' : 'Select a shape or a Part, or choose its keys') // prettier-ignore
  const times = timesOf(first)
  const now = first.keys.findLast(({ time }) => times.includes(time) && (isChosen || time <= frame))
  const next = INTERPOLATIONS[(INTERPOLATIONS.indexOf(now?.interpolation ?? 'smooth') + 1) % INTERPOLATIONS.length]!
  edit(
    `${next} between keys`,
    free.flatMap((one) => interpolationSet(one, timesOf(one), next)),
  )
}

const INTERPOLATIONS = ['smooth', 'linear', 'ease', 'hold'] as const

const nudges = (
  [
    ['Left', -1, 0],
    ['Right', 1, 0],
    ['Up', 0, -1],
    ['Down', 0, 1],
  ] as const
).flatMap(([name, dx, dy]) =>
  (
    [
      ['alt+', 1],
      ['alt+shift+', 10],
      ['mod+alt+', 0.1],
    ] as const
  ).map(([modifiers, pixels]) => ({
    id: `nudge-${name.toLowerCase()}-${pixels}`,
    keys: [`${modifiers}Arrow${name}`],
    words: `Nudge ${name.toLowerCase()} by ${pixels} px`,
    run: () => nudge(dx * pixels, dy * pixels),
  })),
)

export const SHAPE_COMMANDS: readonly Command[] = [
  { id: 'select-all', keys: ['mod+a'], words: 'All points of the selected shapes, or all shapes', run: selectAll },
  { id: 'next-under', keys: ['x'], words: 'Next shape under the pointer', run: selectNextUnder },
  { id: 'all-under', keys: ['shift+x'], words: 'All shapes under the pointer', run: selectAllUnder },
  {
    id: 'grow-selection',
    keys: ['>'],
    words: 'One more point at both ends of the selection',
    run: () => growSelection(1),
  },
  { id: 'shrink-selection', keys: ['<'], words: 'One point less at both ends', run: () => growSelection(-1) },
  { id: 'corners', keys: ['shift+c'], words: 'Corner or smooth points', run: toggleCorners },
  { id: 'tie', keys: ['alt+t'], words: 'Seam: tie the selected stretches of two shapes', run: tieSelected },
  { id: 'break-seams', keys: ['alt+shift+t'], words: 'Break the Seams of the selected shapes', run: breakSeams },
  { id: 'mirror', keys: ['shift+i'], words: 'Mirror left and right', run: () => mirrorSelected('upright') },
  {
    id: 'snaps',
    keys: ['shift+n'],
    words: 'Snapping on and off',
    run: () => {
      const snaps = !get().editing.snaps
      setEditing({ snaps })
      say('said', snaps ? 'Points snap' : 'Points go freely')
    },
  },
  {
    id: 'upright-guide',
    keys: ['alt+g'],
    words: 'Upright guide at the pointer, or away with it',
    run: () => toggleGuide('x'),
  },
  {
    id: 'level-guide',
    keys: ['alt+shift+g'],
    words: 'Level guide at the pointer, or away with it',
    run: () => toggleGuide('y'),
  },
  { id: 'nearer', keys: ['PageUp'], words: 'The selected Part one place nearer', run: () => stepInDepth(-1) },
  { id: 'farther', keys: ['PageDown'], words: 'The selected Part one place farther', run: () => stepInDepth(1) },
  { id: 'hole', keys: ['shift+a'], words: 'A hole: the next drawn shape, or the selected ones', run: toggleHole },
  {
    id: 'again',
    keys: ['alt+shift+i'],
    words: 'Show the selected Part or shapes again, as a Part that follows them',
    run: showAgain,
  },
  {
    id: 'subject-again',
    keys: ['alt+shift+u'],
    words: 'Show the Subject of the selected Part again, as a Subject that follows it',
    run: () => showSubjectAgain(),
  },
  { id: 'hidden', keys: ['shift+d'], words: 'Hide what is selected on the marked stretch or this frame, or show it again', run: toggleHidden }, // prettier-ignore
  { id: 'bend-over', keys: ['shift+v'], words: 'Turn the bend of the limb over', run: turnBendOver },
  { id: 'rename', keys: ['F2'], words: 'Name the selected Part', run: renameSelected },
  { id: 'delete', keys: ['Delete', 'Backspace'], words: 'Delete what is selected', run: removeSelected },
  { id: 'copy', keys: ['mod+c'], words: 'Copy keys, points, shapes or a Part', run: () => void copySelected() },
  { id: 'cut', keys: ['mod+x'], words: 'Cut', run: cutSelected },
  { id: 'paste', keys: ['mod+v'], words: 'Paste on this frame', run: () => void pasteHere() },
  { id: 'duplicate', keys: ['mod+d'], words: 'The same shape or Part once more', run: duplicateSelected },
  ...nudges,
].map((command) => ({ ...command, section: 'Shapes' as const }))

export const KEY_COMMANDS: readonly Command[] = [
  { id: 'key', keys: ['k'], words: 'Key here', run: addKeyHere },
  { id: 'delete-key', keys: ['shift+k'], words: 'Delete the key here', run: deleteKeyHere },
  { id: 'interpolation', keys: ['i'], words: 'Smooth, linear, ease or hold between keys', run: toggleInterpolation },
  { id: 'repeat-keys', keys: ['alt+r'], words: 'Repeat the chosen keys', run: repeatKeys },
  { id: 'reverse-keys', keys: ['alt+v'], words: 'Reverse the chosen keys', run: reverseKeys },
].map((command) => ({ ...command, section: 'Keys' as const }))
