import { mainTrackId, say, setView, useShot, VIEW_MODES, type Channel, soloSelected, viewer } from '../../../store'
import type { Command } from './command'

const get = useShot.getState

const MODE_WORDS = { plate: 'the plate', fill: 'the fill', matte: 'the matte', cutout: 'the cut-out' }
const CHANNEL_KEYS = [['red', 'r', 'Red channel'], ['green', 'g', 'Green channel'], ['blue', 'b', 'Blue channel'], ['luma', 'l', 'Luma']] as const // prettier-ignore

function cycleChannel(channel: Channel) {
  setView({ channel: get().view.channel === channel ? 'rgb' : channel })
}

export function toggleSteady() {
  const { view, selection, document } = get()
  if (view.steadyTrackId) return setView({ steadyTrackId: null })
  const part = selection.partId ? document.objects.get(selection.partId) : undefined
  const trackId = mainTrackId(selection) ?? (part?.kind === 'part' ? (part.mover?.trackId ?? null) : null)
  if (trackId) setView({ steadyTrackId: trackId })
  else say('doubtful', 'Select a track, or a Part that a track moves, to hold the picture still')
}

/** The view goes along with what is selected, so that it stays put on screen; or goes its own way again. */
export function toggleKeepInView() {
  const { view, selection } = get()
  if (view.keepInView) return setView({ keepInView: null })
  const trackId = selection.shapeIds.length || selection.partId ? null : mainTrackId(selection)
  if (trackId) return setView({ keepInView: { trackId } })
  if (selection.shapeIds.length || selection.partId) return setView({ keepInView: 'selection' })
  say('doubtful', 'Select points, a shape, a Part or a track to keep it in view')
}

export function toggleOnion() {
  const { onion } = get().view
  setView({ onion: { ...onion, count: onion.count ? 0 : 2 } })
}

function toggleFullScreen() {
  if (document.fullscreenElement) void document.exitFullscreen()
  else void document.documentElement.requestFullscreen().catch(() => say('doubtful', 'Full screen is not allowed here'))
}

export const VIEW_COMMANDS: readonly Command[] = [
  ...VIEW_MODES.map((mode, i) => ({
    id: `show-${mode}`,
    keys: [String(i + 1)],
    words: `Show ${MODE_WORDS[mode]}`,
    run: () => setView({ mode }),
  })),
  {
    id: 'fit',
    keys: ['f'],
    words: 'Fit the plate into the viewer',
    run: () => viewer()?.fit(),
  },
  { id: 'one-to-one', keys: ['z'], words: 'One to one', run: () => viewer()?.oneToOne() },
  { id: 'steady', keys: ['y'], words: 'Steady: hold the picture still by the selected track', run: toggleSteady },
  {
    id: 'steady-smooth',
    keys: ['shift+y'],
    words: 'Steady on rails: the way of the camera without its shake',
    run: () => setView({ isSteadySmooth: !get().view.isSteadySmooth }),
  },
  {
    id: 'keep-in-view',
    keys: ['alt+y'],
    words: 'Keep in view: the picture goes along, so that what is selected stays put',
    run: toggleKeepInView,
  },
  { id: 'solo', keys: ['alt+h'], words: 'The selected Part alone, or all again', run: soloSelected },
  {
    id: 'shutter',
    keys: ['alt+m'],
    words: 'Shutter: the selected outlines where it opens and closes, and what they sweep',
    run: () => setView({ showsShutter: !get().view.showsShutter }),
  },
  { id: 'onion', keys: ['u'], words: 'Onion skin: outlines at the keys before and after', run: toggleOnion },
  ...CHANNEL_KEYS.map(([channel, key, words]) => ({
    id: `channel-${channel}`,
    keys: [`shift+${key}`],
    words,
    run: () => cycleChannel(channel),
  })),
  {
    id: 'box',
    keys: ['shift+z'],
    words: 'Box round the selected points, shown or not',
    run: () => setView({ showsBox: !get().view.showsBox }),
  },
  {
    id: 'panels',
    keys: ['Tab'],
    words: 'Hide and show all panels',
    run: () => useShot.setState({ panelsHidden: !get().panelsHidden }),
  },
  { id: 'full-screen', keys: ['shift+f'], words: 'Full screen', run: toggleFullScreen },
].map((command) => ({ ...command, section: 'View' as const }))
