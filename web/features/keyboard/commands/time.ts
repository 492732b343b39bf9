import { halfwayFrame } from '@tender-lasso/core/animation'
import { keyedChannels, formKeys } from '@tender-lasso/core/document'
import { goTo, posedPart, say, selectedKeyed, selectedShapes, shotRange, useShot } from '../../../store'
import { addBookmark, goToBookmark } from '../../../commands'
import { togglePlayback } from '../../../viewer/playback'
import type { Command } from './command'

const get = useShot.getState

/** Keys of all that is keyed of the selected shapes, or of a Part, before and after the present frame. */
function stepKey(direction: 1 | -1) {
  const { frame } = get()
  const part = posedPart()
  const channels = [...(part ? [part] : []), ...selectedShapes()].flatMap(keyedChannels)
  const times = channels.flatMap(({ keys }) => keys.map((key) => key.time))
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
    chosen.flatMap((keyed) => formKeys(keyed).map((key) => key.time)),
    first,
    last,
  )
  if (frame === null) say('said', 'Every frame has a key')
  else goTo(frame)
}

const by = (frames: number) => () => goTo(get().frame + frames)

export const TIME_COMMANDS: readonly Command[] = [
  { id: 'play', keys: [' '], words: 'Play and stop', run: togglePlayback },
  { id: 'next-frame', keys: ['ArrowRight', '.'], words: 'Next frame', run: by(1) },
  { id: 'previous-frame', keys: ['ArrowLeft', ','], words: 'Previous frame', run: by(-1) },
  { id: 'ten-on', keys: ['shift+ArrowRight'], words: 'Ten frames on', run: by(10) },
  { id: 'ten-back', keys: ['shift+ArrowLeft'], words: 'Ten frames back', run: by(-10) },
  { id: 'first-frame', keys: ['Home'], words: 'First frame', run: () => goTo(shotRange()[0]) },
  { id: 'last-frame', keys: ['End'], words: 'Last frame', run: () => goTo(shotRange()[1]) },
  { id: 'next-key', keys: ['ArrowDown'], words: 'Next key', run: () => stepKey(1) },
  { id: 'previous-key', keys: ['ArrowUp'], words: 'Previous key', run: () => stepKey(-1) },
  { id: 'halfway', keys: ['j'], words: 'Jump halfway into the longest stretch between keys', run: goHalfway },
  { id: 'bookmark', keys: ['shift+m'], words: 'Bookmark this frame or the marked stretch', run: addBookmark },
  { id: 'next-bookmark', keys: ['shift+ArrowDown'], words: 'Next bookmark', run: () => goToBookmark(1) },
  { id: 'previous-bookmark', keys: ['shift+ArrowUp'], words: 'Previous bookmark', run: () => goToBookmark(-1) },
].map((command) => ({ ...command, section: 'Time' as const }))
