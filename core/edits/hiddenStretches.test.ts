import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { objectSchema, type Part } from '../document'
import { isHidden } from '../evaluation'
import { documentOf, testPart, withPatches } from '../document/testDocuments'
import { hiddenOver, isHiddenOver, shownOver } from './hiddenStretches'

const stretch = fc.tuple(fc.integer({ min: 1, max: 40 }), fc.integer({ min: 0, max: 12 })).map(([from, more]): [number, number] => [from, from + more]) // prettier-ignore

describe('hidden stretches', () => {
  it('hide the frames that were marked and no longer those that were shown again, in whatever order', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.boolean(), stretch), { maxLength: 12 }), (acts) => {
        const frames = new Set<number>()
        let document = documentOf([testPart('part')])
        for (const [hides, [from, to]] of acts) {
          const part = document.objects.get('part') as Part
          document = withPatches(document, (hides ? hiddenOver : shownOver)([part], [from, to]))
          for (let frame = from; frame <= to; frame++) if (hides) frames.add(frame)
            else frames.delete(frame) // prettier-ignore
        }
        const part = document.objects.get('part') as Part
        expect(objectSchema.safeParse(part).success).toBe(true)
        for (let frame = 0; frame < 60; frame++) expect(isHidden(part, frame)).toBe(frames.has(frame))
        for (const [, [from, to]] of acts) {
          const all = Array.from({ length: to - from + 1 }, (_, i) => from + i)
          expect(isHiddenOver(part, [from, to])).toBe(all.every((frame) => frames.has(frame)))
        }
      }),
    )
  })

  it('that are so already need no edit', () => {
    const part = { ...testPart('part'), hidden: [[5, 9]] as [number, number][] }
    expect(hiddenOver([part], [6, 8])).toEqual([])
    expect(shownOver([part], [10, 20])).toEqual([])
  })
})
