import { describe, expect, it } from 'vitest'
import { countWords, toldApart } from './trackReport'

describe('how a run of tracks is told', () => {
  it('numbers that differ are told in as many digits as show it', () => {
    expect(toldApart(0.796, 0.8)).toEqual(['0.796', '0.800'])
    expect(toldApart(0.79997, 0.8)).toEqual(['0.79997', '0.80000'])
    expect(toldApart(1.24, 0.7)).toEqual(['1.24', '0.70'])
  })

  it('says what was kept, done anew, new and lost, over both directions', () => {
    expect(countWords([{ redone: 0, fresh: 24, lost: 0 }], 0)).toBe('24 frames')
    expect(countWords([{ redone: 5, fresh: 1, lost: 0 }, { redone: 2, fresh: 0, lost: 3 }], 40)).toBe('48 frames: 40 kept, 7 redone, 1 new, 3 lost') // prettier-ignore
    expect(countWords([{ redone: 0, fresh: 1, lost: 0 }], 0)).toBe('1 frame')
    expect(countWords([], 0)).toBe('no frame to track that way')
    expect(countWords([], 72)).toBe('all 72 frames kept, none to track that way')
  })
})
