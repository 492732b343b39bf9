import { HERE, type Keying, type Reach } from '@tender-lasso/core/edits'
import { type Patch } from '@tender-lasso/core/document'
import { say, shotRange, useShot, type Editing, type ReachKind } from '../store'
import { edit } from '../session'
import { counted } from '../words/counted'

const get = useShot.getState

/** The Reach as the core takes it: a Span is the stretch marked in the timeline; without one nothing but the frame. */
function reachOf({ reach, spanFalloff }: Editing, range: readonly [number, number] | null): Reach {
  if (reach === 'here') return HERE
  if (reach !== 'span') return { kind: reach }
  if (!range) return HERE
  const [from, to] = range
  const [first, last] = shotRange()
  const ends = [from - spanFalloff - 1, from, to, to + spanFalloff + 1].filter(
    (frame) => frame >= first && frame <= last,
  )
  return { kind: 'span', from, to, falloff: spanFalloff, ends }
}

/** How an edit made now makes and changes keys. */
export function keyingNow({ editing, range } = get()): Keying {
  return { reach: reachOf(editing, range), makesKeys: editing.makesKeys, onlyTouched: editing.onlyTouched }
}

/** The widest shutter opens for a frame on both sides of its middle, and a bit. */
const SEEN_FRAMES = 2

/** The same on the way of a gesture: only keys that say what is on screen change before it ends. */
export function keyingOnTheWay(state = get()): Keying {
  const { frame, view, timelineFace } = state
  // An onion skin and the edges show other frames as well, curves show all of them.
  if (view.onion.count > 0 || timelineFace === 'curves' || timelineFace === 'edges') return keyingNow(state)
  return { ...keyingNow(state), seen: [frame - SEEN_FRAMES, frame + SEEN_FRAMES] }
}

export const REACH_WORDS: Record<ReachKind, { name: string; hint: string }> = {
  here: { name: 'Here', hint: 'An edit changes this frame' },
  onward: { name: 'Onward', hint: 'An edit changes this frame and all keys after it' },
  back: { name: 'Back', hint: 'An edit changes this frame and all keys before it' },
  span: { name: 'Span', hint: 'An edit changes the keys of the stretch marked in the timeline, fading at its ends' },
  everywhere: { name: 'Everywhere', hint: 'An edit changes all keys' },
}

export function setEditing(change: Partial<Editing>) {
  useShot.setState({ editing: { ...get().editing, ...change } })
}

/** The key or the button of a Reach: once for the next edit, again to lock it, a third time back to Here. */
export function chooseReach(kind: ReachKind) {
  const { editing } = get()
  if (kind === 'here') return setEditing({ reach: 'here', isReachLocked: false })
  if (editing.reach !== kind) {
    if (kind === 'span' && !get().range) say('said', NO_SPAN)
    return setEditing({ reach: kind, isReachLocked: false })
  }
  if (!editing.isReachLocked) return setEditing({ isReachLocked: true })
  setEditing({ reach: 'here', isReachLocked: false })
}

const NO_SPAN = 'Span acts on a marked stretch: Shift-drag over its frames below the picture'

/** The Reach as it will act: a Span with the stretch that it acts on. */
export function reachWords({ editing, range } = get()): string {
  const { name } = REACH_WORDS[editing.reach]
  if (editing.reach !== 'span') return name
  return range ? `${name} ${range[0]}-${range[1]}` : `${name}: mark a stretch`
}

/** One edit; `reaches`: it went by the Reach, as what is keyed does. */
export const editOrReach = (label: string, patches: Patch[], reaches: boolean): boolean =>
  reaches ? editReaching(label, patches) : edit(label, patches)

/** One gesture on shapes or poses that went by the Reach; it falls back to Here unless it is locked. */
export function editReaching(label: string, patches: Patch[]): boolean {
  const { editing, frame, range } = get()
  if (editing.reach === 'span' && !range) {
    say('doubtful', NO_SPAN)
    useShot.setState({ shown: get().document })
    return false
  }
  if (patches.length === 0) {
    if (!editing.makesKeys) say('doubtful', `No key on ${frame}, and edits make none: press K for a key first`)
    return false
  }
  const words = editing.reach === 'here' ? label : `${label}, ${REACH_WORDS[editing.reach].name.toLowerCase()}`
  const isDone = edit(words, patches)
  if (isDone && editing.reach !== 'here') {
    const count = new Set(patches.flatMap((patch) => timesOf(patch).map((time) => `${patch.id} ${time}`))).size
    say('said', `${words}: ${counted(count, 'key')}`)
    if (!editing.isReachLocked) setEditing({ reach: 'here' })
  }
  return isDone
}

function timesOf(patch: Patch): readonly (number | string)[] {
  if (patch.kind === 'values') return patch.times
  return ['time' in patch ? patch.time : '']
}
