import { expect, it } from 'vitest'
import { counted } from './counted'

it('says one as one, and none and many as many', () => {
  expect([0, 1, 2].map((count) => counted(count, 'key'))).toEqual(['0 keys', '1 key', '2 keys'])
})
