import { describe, expect, it } from 'vitest'
import { documentOf, testPart, testShape, testShot, testSubject } from '../document/testDocuments'
import { constantChannel, type Part, type Shape } from '../document'
import { sceneAt } from './index'

const shape = (id: string, order: number, overrides: Partial<Shape> = {}): Shape => ({
  ...testShape(id, 'part', [1001]),
  order,
  ...overrides,
})

const sceneOf = (shapes: readonly Shape[], part: Partial<Part> = {}, frame = 1001) =>
  sceneAt(documentOf([testShot, testSubject, testPart('part', part), ...shapes]), frame)

const operations = (shapes: readonly Shape[]) =>
  sceneOf(shapes).parts.flatMap(({ groups }) => groups.map(({ operation, outlinesAt }) => [operation, outlinesAt(0.5).length])) // prettier-ignore

describe('shapes of a Part as layers', () => {
  it('neighbours that add, or that take away, are one where their edges are alike', () => {
    const [subtract, soft] = [{ operation: 'subtract' } as const, { outerFeather: constantChannel(3) }]
    const base = shape('a', 0)
    expect(operations([base, shape('b', 1)])).toEqual([['add', 2]])
    expect(operations([base, shape('b', 1, subtract), shape('c', 2, subtract), shape('d', 3)])).toEqual([
      ['add', 1],
      ['subtract', 2],
      ['add', 1],
    ])
    const softOne = shape('b', 1)
    const mixed = [base, { ...softOne, channels: { ...softOne.channels, ...soft } }, shape('c', 2)]
    expect(operations(mixed)).toEqual([
      ['add', 2],
      ['add', 1],
    ])
  })

  it('each that intersects or differs is one by itself', () => {
    for (const operation of ['intersect', 'difference'] as const) {
      expect(operations([shape('a', 0), shape('b', 1, { operation }), shape('c', 2, { operation })])).toEqual([
        ['add', 1],
        [operation, 1],
        [operation, 1],
      ])
    }
  })

  it('what takes away from nothing is none', () => {
    expect(operations([shape('a', 0, { operation: 'subtract' }), shape('b', 1)])).toEqual([['add', 1]])
    expect(sceneOf([shape('a', 0, { operation: 'intersect' })]).parts).toEqual([])
  })

  it('a hidden Part or shape is in no matte on its frames, and in all others', () => {
    const hidden: [number, number][] = [[1005, 1008]]
    const seen = (part: Partial<Part>, of: Partial<Shape>) =>
      [1004, 1005, 1008, 1009].map((frame) => sceneOf([shape('a', 0, of)], part, frame).parts.length)
    expect(seen({ hidden }, {})).toEqual([1, 0, 0, 1])
    expect(seen({}, { hidden })).toEqual([1, 0, 0, 1])
  })

  it('blur is given in pixels of the target; what changes nothing is left out', () => {
    const document = documentOf([testShot, testSubject, testPart('part', { channels: { blur: constantChannel(6) } }), shape('a', 0)]) // prettier-ignore
    expect(sceneAt(document, 1001, 0.5).parts[0]!.finish?.blur).toBe(3)
    expect(sceneOf([shape('a', 0)]).parts[0]!.finish).toBeUndefined()
  })
})
