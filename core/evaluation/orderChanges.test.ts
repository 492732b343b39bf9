import { describe, expect, it } from 'vitest'
import { documentOf, testPart, testShot, testSubject } from '../document/testDocuments'
import { orderChanges } from './orderChanges'

const depthAt = (...keys: readonly (readonly [time: number, depth: number])[]) => ({
  depth: {
    constant: Float64Array.of(keys[0]![1]),
    keys: keys.map(([time, depth]) => ({ time, interpolation: 'hold' as const, values: Float64Array.of(depth) })),
  },
})
const documentWith = (...parts: ReturnType<typeof testPart>[]) => documentOf([testShot, testSubject, ...parts])

describe('where the depth order changes', () => {
  it('is nowhere without keys, and where keys change nothing', () => {
    expect(orderChanges(documentWith(testPart('a', { depth: 1 }), testPart('b', { depth: 2 })))).toEqual([])
    const same = documentWith(testPart('a', { channels: depthAt([1001, 1], [1020, 1.5]) }), testPart('b', { depth: 2 }))
    expect(orderChanges(same)).toEqual([])
  })

  it('is on the key from which one Part has passed another, and names only these', () => {
    const document = documentWith(
      testPart('arm', { channels: depthAt([1001, 1], [1020, 3], [1033, 1]) }),
      testPart('coat', { depth: 2 }),
      testPart('post', { depth: 0 }),
    )
    expect(orderChanges(document)).toEqual([
      { frame: 1020, partIds: ['coat', 'arm'] },
      { frame: 1033, partIds: ['arm', 'coat'] },
    ])
  })

  it('of two that change on one frame tells all that were passed', () => {
    const document = documentWith(
      testPart('a', { channels: depthAt([1001, 0], [1010, 5]) }),
      testPart('b', { channels: depthAt([1001, 2], [1010, 1]) }),
      testPart('c', { depth: 3 }),
    )
    expect(orderChanges(document)).toEqual([{ frame: 1010, partIds: ['b', 'c', 'a'] }])
  })
})
