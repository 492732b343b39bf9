import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  firstOutputs,
  NEW_OUTPUT_FIELDS,
  objectSchema,
  OUTPUT_FORMATS,
  OUTPUT_LAYOUTS,
  outputWith,
  patternProblem,
  type Output,
} from '../document'
import { documentOf, testPart, testShape, testShot, testSubject } from '../document/testDocuments'
import { documentRestored } from '../edits'
import type { Scene } from '../raster'
import {
  deliveredRange,
  distinctNames,
  fileNameOf,
  mattesOf,
  nameFrom,
  partsTouched,
  picturesOf,
  withoutSoftness,
} from './index'

const output = (change: Partial<Output> = {}): Output => ({
  ...NEW_OUTPUT_FIELDS,
  id: 'out',
  name: 'Mattes',
  order: 0,
  ...change,
})

describe('names of files', () => {
  it('lose accents, slashes and whatever a file system may not have', () => {
    expect(fileNameOf('Größe / Ärmel: links')).toBe('Grosse_Armel_links')
    expect(fileNameOf('..\\..//')).toBe('')
    expect(fileNameOf('手')).toBe('')
    expect(fileNameOf('x'.repeat(300))).toHaveLength(28)
  })

  it('are never alike, in whatever case, and safe everywhere', () => {
    fc.assert(
      fc.property(
        fc.array(fc.oneof(fc.string(), fc.constantFrom('Coat', 'coat', 'cöat', 'x'.repeat(40), '')), { maxLength: 12 }),
        (names) => {
          const made = distinctNames(names, 'matte')
          expect(new Set(made.map((name) => name.toLowerCase())).size).toBe(names.length)
          for (const name of made) expect(name).toMatch(/^[A-Za-z0-9_-]{1,28}$/)
        },
      ),
    )
  })

  it('fill in the words of a pattern, frames and versions with their digits', () => {
    const words = { shot: 'WS 010', output: 'Mattes', part: 'coat', version: 3, frame: 1001 }
    expect(nameFrom('{part}/{shot}_{output}_{version}.{frame}', words, 6)).toBe('coat/WS_010_Mattes_v003.001001')
    expect(nameFrom('{frame}', { ...words, frame: -7 }, 4)).toBe('-0007')
  })

  it.each([
    ['{shot}.{frame}', 'channels', null],
    ['{part}/{shot}.{frame}', 'one', null],
    ['{shot}.{frame}', 'one', '{part}'],
    ['{part}/{shot}', 'one', '{frame}'],
    ['{frame}/{part}', 'one', '{frame}'],
    ['../{part}.{frame}', 'one', 'needs a name'],
    ['/{part}.{frame}', 'one', 'needs a name'],
    ['{part}.{frame}.{hat}', 'one', '{hat}'],
    ['a b{part}.{frame}', 'one', 'letters'],
  ] as const)('of the pattern %s for %s: %s', (pattern, layout, problem) => {
    const found = patternProblem(pattern, { layout, format: 'png16' })
    if (problem === null) expect(found).toBeNull()
    else expect(found).toContain(problem)
  })
})

describe('outputs', () => {
  it('of a new shot are ones that may be stored', () => {
    let n = 0
    for (const one of firstOutputs(() => `o${n++}`)) expect(objectSchema.parse(one)).toEqual(one)
  })

  it('are refused where settings do not go together, and put right by a change', () => {
    expect(objectSchema.safeParse(output({ layout: 'channels' })).success).toBe(false)
    expect(objectSchema.safeParse(output({ window: 'data' })).success).toBe(false)
    const changes = fc.record(
      {
        layout: fc.constantFrom(...OUTPUT_LAYOUTS),
        format: fc.constantFrom(...OUTPUT_FORMATS),
        window: fc.constantFrom<Output['window']>('full', 'data'),
      },
      { requiredKeys: [] },
    )
    fc.assert(
      fc.property(fc.array(changes, { maxLength: 6 }), (list) => {
        const made = list.reduce(
          outputWith,
          output({ pattern: '{shot}.{frame}', layout: 'channels', format: 'exr-half' }),
        )
        expect(objectSchema.parse(made)).toEqual(made)
      }),
    )
  })

  it('stay as they are when an older state of the shot is brought back', () => {
    const then = documentOf([testShot, testSubject, output({ id: 'gone' })])
    const now = documentOf([testShot, testSubject, testPart('coat'), output({ padding: 6 })])
    expect(documentRestored(now, then)).toEqual([{ kind: 'object', id: 'coat', before: testPart('coat'), after: null }])
  })

  it('hold all Parts with shapes, those of a Subject or some, nearest first, without two names alike', () => {
    const document = documentOf([
      testShot,
      testSubject,
      { ...testSubject, id: 'other', name: 'Lamplighter' },
      testPart('far', { name: 'Coat', depth: 5 }),
      testPart('near', { name: 'Coat', depth: 1, subjectId: 'other' }),
      testPart('empty'),
      testShape('a', 'far', [1001]),
      testShape('b', 'near', [1001]),
    ])
    expect(mattesOf(document, output())).toEqual([
      { partId: 'near', name: 'Lamplighter_Coat' },
      { partId: 'far', name: 'Lamplighter_Coat_2' },
    ])
    expect(
      mattesOf(document, output({ holds: { what: 'subject', subjectId: 'other' } })).map(({ partId }) => partId),
    ).toEqual(['near'])
    expect(
      mattesOf(document, output({ holds: { what: 'parts', partIds: ['far', 'gone'] } })).map(({ partId }) => partId),
    ).toEqual(['far'])
  })

  it('have the frames of their range and its handles that the shot has', () => {
    const shot = [1001, 1072] as const
    expect(deliveredRange(output(), shot)).toEqual([1001, 1072])
    expect(deliveredRange(output({ range: [1010, 1020], handles: 4 }), shot)).toEqual([1006, 1024])
    expect(deliveredRange(output({ range: [1003, 1003], handles: 8 }), shot)).toEqual([1001, 1011])
    expect(deliveredRange(output({ range: [2000, 2001], handles: 8 }), shot)).toBeNull()
  })

  it('are as many files a frame as their layout says, each matte in one channel', () => {
    const mattes = ['a', 'b', 'c', 'd'].map((name) => ({ partId: name, name }))
    const at = { shot: 'WS_010', version: 1, frame: 1001 }
    expect(picturesOf(output(), mattes, at).map(({ path }) => path)).toEqual(
      mattes.map(({ name }) => `${name}/WS_010_${name}_v001.1001`),
    )
    const inColours = picturesOf(output({ layout: 'rgb' }), mattes, at)
    expect(inColours.map(({ channels }) => channels.map(({ name, matte }) => `${name}${matte}`).join())).toEqual([
      'R0,G1,B2',
      'R3',
    ])
    expect(new Set(inColours.map(({ path }) => path)).size).toBe(2)
    const [all] = picturesOf(output({ layout: 'channels', format: 'exr-half', pattern: '{shot}.{frame}' }), mattes, at)
    expect(all).toEqual({
      path: 'WS_010.1001',
      channels: mattes.map(({ name }, matte) => ({ name: `${name}.A`, matte })),
    })
  })
})

describe('Parts that an edit touches', () => {
  const track = { id: 'track', kind: 'track' } as never
  const document = documentOf([
    testShot,
    testSubject,
    track,
    testPart('body', { mover: { trackId: 'track', referenceFrame: 1001, base: Float64Array.of(1, 0, 0, 0, 1, 0, 0, 0, 1), strength: { x: 1, y: 1, rotation: 1, scale: 1, skew: 1, perspective: 1 } } }), // prettier-ignore
    testPart('arm', { parentId: 'body' }),
    testPart('hand', { parentId: 'arm' }),
    testPart('mirror', { instance: { of: 'hand', shapeIds: null, withParent: false, mirror: null } }),
    testPart('post'),
    testShape('sleeve', 'arm', [1001]),
    testShape('glove', 'hand', [1001]),
    testShape('pole', 'post', [1001]),
    { kind: 'seam', id: 'seam', ownerId: 'glove', borrowerId: 'pole', pairs: [] } as never,
  ])
  const touched = (...ids: string[]) => [...partsTouched(document)(ids)].sort()

  it('are the one that it belongs to, all that this carries, what follows them, and who borrows their outline', () => {
    expect(touched('pole')).toEqual(['post'])
    expect(touched('sleeve')).toEqual(['arm', 'hand', 'mirror', 'post'])
    expect(touched('track')).toEqual(['arm', 'body', 'hand', 'mirror', 'post'])
    expect(touched('seam')).toEqual(['hand', 'mirror', 'post'])
    expect(touched('shot')).toEqual(['arm', 'body', 'hand', 'mirror', 'post'])
    expect(touched('lamplighter', 'nothing')).toEqual([])
  })

  it('are known of what is gone by what it was', () => {
    const gone = testShape('cuff', 'arm', [1001])
    expect([...partsTouched(document, new Map([['cuff', gone]]))(['cuff'])]).toContain('arm')
  })
})

describe('a scene without softness', () => {
  const soft = { innerFeather: 3, outerFeather: 5, grow: 2 }
  const outlinesAt = () => []
  const scene: Scene = {
    parts: [
      {
        id: 'coat',
        holdsOut: true,
        groups: [{ edge: soft, opacity: 1, focus: 2, outlinesAt, focusedOutlines: () => [], wideOutlinesAt: () => [] }],
      },
    ],
  }
  const group = (kept: { feather: boolean; focus: boolean }) => withoutSoftness(scene, kept).parts[0]!.groups[0]!

  it('keeps what was grown, and of feather and focus what is wanted', () => {
    expect(withoutSoftness(scene, { feather: true, focus: true })).toBe(scene)
    const hard = group({ feather: false, focus: false })
    expect(hard).toMatchObject({ edge: { innerFeather: 0, outerFeather: 0, grow: 2 }, opacity: 1 })
    expect([hard.focus, hard.focusedOutlines, hard.wideOutlinesAt]).toEqual([undefined, undefined, undefined])
    expect(group({ feather: true, focus: false })).toMatchObject({ edge: soft, focus: undefined })
    expect(group({ feather: false, focus: true })).toMatchObject({
      edge: { innerFeather: 0, outerFeather: 0 },
      focus: 2,
    })
  })
})
