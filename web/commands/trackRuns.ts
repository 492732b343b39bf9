import { runSelectedTracks } from './trackRunner'

/** The runs of the selected tracks: what stands in the tool strip and on the keyboard. `sign` is what the button shows. */
export const TRACK_RUNS = [
  { words: 'Track backward to the start', sign: '◂◂ Start', keys: 'q', run: () => void runSelectedTracks('backward') },
  {
    words: 'Track one frame back',
    sign: '◂',
    keys: 'shift+q',
    run: () => void runSelectedTracks('backward', { mostFrames: 1 }),
  },
  { words: 'Track both ways', sign: 'Both ways', keys: 'w', run: () => void runSelectedTracks('both') },
  {
    words: 'Track one frame on',
    sign: '▸',
    keys: 'shift+e',
    run: () => void runSelectedTracks('forward', { mostFrames: 1 }),
  },
  { words: 'Track forward to the end', sign: 'End ▸▸', keys: 'e', run: () => void runSelectedTracks('forward') },
  {
    words: 'Track both ways again from the last good frames',
    sign: 'Again',
    keys: 'shift+w',
    run: () => void runSelectedTracks('both', { from: 'last-good' }),
  },
] as const
