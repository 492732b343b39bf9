import { halfwayFrame } from '@tender-lasso/core/animation'
import {
  find,
  interpolationSet,
  keyAdded,
  keyDeleted,
  movedByTrack,
  objectsDeleted,
  pointsRemoved,
  poseMoved,
  sampleNudged,
  type Keyed,
  type Patch,
} from '@tender-lasso/core/document'
import {
  edit,
  goTo,
  mainTrackId,
  preview,
  redo,
  say,
  select,
  posedPart,
  selectedKeyed,
  selectedShapes,
  setView,
  shotRange,
  undo,
  useShot,
  VIEW_MODES,
  type Channel,
} from '../../state/shotStore'
import { STEPS, TOOL_WORDS, TOOLS } from '../../state/steps'
import { stopTracking } from '../../state/trackRunner'
import { REPAIRS } from '../../state/trackRepairs'
import { TRACK_RUNS } from '../../state/trackRuns'
import { togglePlayback } from '../../viewer/playback'
import { valuesKeyed, valuesMovedOnPlate } from '@tender-lasso/core/document'
import { translation } from '@tender-lasso/core/geometry'

export interface Command {
  /** As the browser names it, with modifiers in front: "shift+ArrowLeft", "mod+z". */
  keys: readonly string[]
  section: 'Time' | 'View' | 'Tools' | 'Shapes' | 'Track' | 'Everywhere'
  words: string
  run(): void
}

const get = useShot.getState

/** Keys of the selected shapes before and after the present frame. */
function stepKey(direction: 1 | -1) {
  const { frame } = get()
  const part = posedPart()
  const times = [...(part ? [part] : []), ...selectedShapes()].flatMap(({ keys }) => keys.map((key) => key.time))
  const next =
    direction === 1
      ? times.filter((t) => t > frame).sort((a, b) => a - b)[0]
      : times.filter((t) => t < frame).sort((a, b) => b - a)[0]
  if (next === undefined)
    say('said', times.length ? 'No further key that way' : 'Select a shape to step between its keys')
  else goTo(next)
}

/** To the middle of the longest stretch between keys of what is selected. */
function goHalfway() {
  const chosen = selectedKeyed()
  if (chosen.length === 0) return say('said', 'Select a shape or a Part to go halfway between its keys')
  const [first, last] = shotRange()
  const frame = halfwayFrame(
    chosen.flatMap(({ keys }) => keys.map((key) => key.time)),
    first,
    last,
  )
  if (frame === null) say('said', 'Every frame has a key')
  else goTo(frame)
}

export function removeSelected() {
  const { document, selection, frame } = get()
  if (selection.pointIds.size) {
    const results = selectedShapes().map((shape) => ({ shape, ...pointsRemoved(shape, selection.pointIds) }))
    const patches = results.flatMap((result) => result.patches)
    if (patches.length === 0) return say('doubtful', 'A shape keeps at least two points')
    if (!edit('remove points', patches)) return
    select({ pointIds: new Set() })
    const far = results.flatMap(({ deviations }) => deviations).filter(({ pixels }) => pixels > 1)
    if (far.length) {
      const worst = far.reduce((a, b) => (a.pixels > b.pixels ? a : b))
      say(
        'doubtful',
        `The outline moved by up to ${worst.pixels.toFixed(1)} px (key ${worst.time}); undo brings it back`,
      )
    }
    return
  }
  if (selection.keyTimes.length) {
    const patches = selectedKeyed().flatMap((keyed) => keysDeletedFrom(keyed, selection.keyTimes))
    if (edit('delete keys', patches)) select({ keyTimes: [] })
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

/** Patches that delete several keys, always leaving one of a shape. */
function keysDeletedFrom(keyed: Keyed, times: readonly number[]): Patch[] {
  const doomed = keyed.keys.filter((key) => times.includes(key.time))
  const isAll = keyed.kind === 'shape' && doomed.length === keyed.keys.length
  return (isAll ? doomed.slice(1) : doomed).flatMap((key) => keyDeleted(keyed, key.time))
}

function nudge(dx: number, dy: number) {
  const { document, frame, selection } = get()
  if (selection.shapeIds.length === 0 && selection.trackIds.length) {
    const tracks = selection.trackIds.flatMap((id) => find(document, 'track', id) ?? [])
    edit(
      `nudge on ${frame}`,
      tracks.filter((track) => !track.locked).flatMap((track) => sampleNudged(track, frame, dx, dy)),
    )
    return
  }
  const part = posedPart()
  if (part) {
    const moved = part.locked ? null : poseMoved(document, part, frame, dx, dy)
    if (moved) edit(`nudge ${part.name}`, moved)
    else say('doubtful', `${part.name} is ${part.locked ? 'locked' : 'pinned: turn it, or let its pivot go'}`)
    return
  }
  const patches = selectedShapes().flatMap((shape) => {
    const isChosen = (id: string) => selection.pointIds.size === 0 || selection.pointIds.has(id)
    return valuesKeyed(shape, frame, valuesMovedOnPlate(document, shape, frame, isChosen, translation(dx, dy)))
  })
  edit('nudge', patches)
}

function deleteKeyHere() {
  const { frame } = get()
  edit(
    `delete the key on ${frame}`,
    selectedKeyed().flatMap((keyed) => keyDeleted(keyed, frame)),
  )
}

function toggleInterpolation() {
  const { frame } = get()
  const chosen = selectedKeyed()
  const now = chosen[0]?.keys.findLast((key) => key.time <= frame)?.interpolation
  const next = now === 'smooth' ? 'linear' : 'smooth'
  edit(
    `${next} between keys`,
    chosen.flatMap((keyed) =>
      interpolationSet(
        keyed,
        keyed.keys.map((k) => k.time),
        next,
      ),
    ),
  )
}

const nudges: Command[] = (
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
    keys: [`${modifiers}Arrow${name}`],
    section: 'Shapes' as const,
    words: `Nudge ${name.toLowerCase()} by ${pixels} px`,
    run: () => nudge(dx * pixels, dy * pixels),
  })),
)

function cycleChannel(channel: Channel) {
  setView({ channel: get().view.channel === channel ? 'rgb' : channel })
}

export const COMMANDS: readonly Command[] = [
  { keys: [' '], section: 'Time', words: 'Play and stop', run: togglePlayback },
  { keys: ['ArrowRight', '.'], section: 'Time', words: 'Next frame', run: () => goTo(get().frame + 1) },
  { keys: ['ArrowLeft', ','], section: 'Time', words: 'Previous frame', run: () => goTo(get().frame - 1) },
  { keys: ['shift+ArrowRight'], section: 'Time', words: 'Ten frames on', run: () => goTo(get().frame + 10) },
  { keys: ['shift+ArrowLeft'], section: 'Time', words: 'Ten frames back', run: () => goTo(get().frame - 10) },
  { keys: ['Home'], section: 'Time', words: 'First frame', run: () => goTo(shotRange()[0]) },
  { keys: ['End'], section: 'Time', words: 'Last frame', run: () => goTo(shotRange()[1]) },
  { keys: ['ArrowDown'], section: 'Time', words: 'Next key', run: () => stepKey(1) },
  { keys: ['ArrowUp'], section: 'Time', words: 'Previous key', run: () => stepKey(-1) },
  { keys: ['j'], section: 'Time', words: 'Jump halfway into the longest stretch between keys', run: goHalfway },
  ...VIEW_MODES.map((mode, i): Command => ({
    keys: [String(i + 1)],
    section: 'View',
    words: `Show ${{ plate: 'the plate', fill: 'the fill', matte: 'the matte', cutout: 'the cut-out' }[mode]}`,
    run: () => setView({ mode }),
  })),
  {
    keys: ['f'],
    section: 'View',
    words: 'Fit the plate into the viewer',
    run: () => window.dispatchEvent(new Event('fit-view')),
  },
  { keys: ['z'], section: 'View', words: 'One to one', run: () => window.dispatchEvent(new Event('view-one-to-one')) },
  { keys: ['y'], section: 'View', words: 'Steady: hold the picture still by the selected track', run: toggleSteady },
  { keys: ['u'], section: 'View', words: 'Onion skin: outlines at the keys before and after', run: toggleOnion },
  { keys: ['shift+r'], section: 'View', words: 'Red channel', run: () => cycleChannel('red') },
  { keys: ['shift+g'], section: 'View', words: 'Green channel', run: () => cycleChannel('green') },
  { keys: ['shift+b'], section: 'View', words: 'Blue channel', run: () => cycleChannel('blue') },
  { keys: ['shift+l'], section: 'View', words: 'Luma', run: () => cycleChannel('luma') },
  {
    keys: ['Tab'],
    section: 'View',
    words: 'Hide and show all panels',
    run: () => useShot.setState({ panelsHidden: !get().panelsHidden }),
  },
  { keys: ['shift+f'], section: 'View', words: 'Full screen', run: toggleFullScreen },
  ...TOOLS.map((tool): Command => ({
    keys: [TOOL_WORDS[tool].key],
    section: 'Tools',
    words: `${TOOL_WORDS[tool].name} (hold the key for one act)`,
    run: () => useShot.setState({ tool }),
  })),
  ...STEPS.map((step, i): Command => ({
    keys: [`alt+${i + 1}`],
    section: 'Tools',
    words: `Step ${step}`,
    run: () => useShot.setState({ step }),
  })),
  {
    keys: ['k'],
    section: 'Shapes',
    words: 'Key here',
    run: () =>
      edit(
        `key on ${get().frame}`,
        selectedKeyed().flatMap((keyed) => keyAdded(keyed, get().frame)),
      ),
  },
  { keys: ['shift+k'], section: 'Shapes', words: 'Delete the key here', run: deleteKeyHere },
  { keys: ['i'], section: 'Shapes', words: 'Linear or smooth between keys', run: toggleInterpolation },
  { keys: ['Delete', 'Backspace'], section: 'Shapes', words: 'Delete what is selected', run: removeSelected },
  ...nudges,
  ...TRACK_RUNS.map(({ keys, words, run }): Command => ({ keys: [keys], section: 'Track', words, run })),
  ...REPAIRS.map(({ keys, words, run }): Command => ({ keys: [keys], section: 'Track', words, run })),
  { keys: ['mod+z'], section: 'Everywhere', words: 'Undo', run: undo },
  { keys: ['mod+shift+z', 'mod+y'], section: 'Everywhere', words: 'Redo', run: redo },
  { keys: ['Enter'], section: 'Everywhere', words: 'Finish what is being drawn', run: () => toolKey('Enter') },
  { keys: ['Escape'], section: 'Everywhere', words: 'Stop tracking, give up, select nothing', run: escape },
  {
    keys: ['?'],
    section: 'Everywhere',
    words: 'This sheet',
    run: () => useShot.setState({ helpOpen: !get().helpOpen }),
  },
]

export function toggleSteady() {
  const { view, selection, document } = get()
  if (view.steadyTrackId) return setView({ steadyTrackId: null })
  const part = selection.partId ? document.objects.get(selection.partId) : undefined
  const trackId = mainTrackId(selection) ?? (part?.kind === 'part' ? (part.mover?.trackId ?? null) : null)
  if (trackId) setView({ steadyTrackId: trackId })
  else say('doubtful', 'Select a track, or a Part that a track moves, to hold the picture still')
}

export function toggleOnion() {
  const { onion } = get().view
  setView({ onion: { ...onion, count: onion.count ? 0 : 2 } })
}

function toggleFullScreen() {
  if (document.fullscreenElement) void document.exitFullscreen()
  else void document.documentElement.requestFullscreen().catch(() => say('doubtful', 'Full screen is not allowed here'))
}

function toolKey(key: 'Enter' | 'Escape') {
  window.dispatchEvent(new CustomEvent('tool-key', { detail: key }))
}

function escape() {
  if (get().track) return stopTracking()
  if (get().helpOpen) return useShot.setState({ helpOpen: false })
  if (get().range) useShot.setState({ range: null })
  toolKey('Escape')
  preview([])
}
