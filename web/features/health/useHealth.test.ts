import { describe, expect, it } from 'vitest'
import { noteOf } from './useHealth'

describe('what is said of the application’s parts', () => {
  const well = { database: true, workers: 1, free: 50e9, isNearlyFull: false }

  it('is nothing while all is well, and the worst thing otherwise', () => {
    expect(noteOf(well)).toBeNull()
    expect(noteOf(null)).toMatchObject({ kind: 'bad', words: 'server away' })
    expect(noteOf({ ...well, database: false, workers: null })).toMatchObject({ kind: 'bad', words: 'database away' })
    expect(noteOf({ ...well, workers: 0, isNearlyFull: true })).toMatchObject({ words: 'no worker' })
    expect(noteOf({ ...well, free: 1.23e9, isNearlyFull: true })).toMatchObject({
      words: 'disk nearly full: 1.2 GB left',
    })
  })
})
