import { beforeEach, describe, expect, it, vi } from 'vitest'
import { allOf, brokenObject, objectSchema, type Patch } from '@tender-lasso/core/document'
import { documentOf, testPart, testShape, testShot, testSubject, withPatches } from '@tender-lasso/core/document/testDocuments' // prettier-ignore
import { partsByDepth, sceneAt } from '@tender-lasso/core/evaluation'
import { renderMattes } from '@tender-lasso/core/raster'
import { writeLottie } from '@tender-lasso/formats/lottie'
import { useShot, type ShotInfo } from '../store'
import { importLottie } from './importLottie'

const edits = vi.hoisted(() => ({ made: [] as { label: string; patches: Patch[] }[] }))
vi.mock('../session', async () => ({
  ...(await import('../session/shotWork')),
  wordsOf: (error: unknown) => (error as Error).message,
  edit: (label: string, patches: Patch[]) => {
    edits.made.push({ label, patches })
    return true
  },
}))

const shot = { ...testShot, range: [1001, 1008] as [number, number] }
const moving = testShape('a', 'coat', [1001, 1008], 6, 40)
moving.channels.outline!.keys[0]!.interpolation = 'linear'
const scene = documentOf([
  shot,
  testSubject,
  testPart('hat', { depth: 0 }),
  testPart('coat', { depth: 1 }),
  { ...testShape('h', 'hat', [1001], 8, 20), life: [1003, 1006] },
  moving,
  { ...testShape('hole', 'coat', [1001], 5, 15), order: 1, operation: 'subtract' },
])
const info = { firstFrame: 1001, lastFrame: 1008, width: 1280, height: 720, rate: { numerator: 24, denominator: 1 } } as ShotInfo // prettier-ignore
const words = () => useShot.getState().message?.words
const written = () =>
  writeLottie({
    title: 'WS 010',
    ...testShot,
    nameOf: (name) => ({ name, colour: '#ffffff' }),
    frames: Array.from({ length: 8 }, (_, i) => ({ frame: 1001 + i, scene: sceneAt(scene, 1001 + i) })),
  }).text

beforeEach(() => {
  edits.made = []
  const empty = documentOf([shot])
  useShot.setState({ document: empty, shown: empty, info, frame: 1004, range: null, message: null })
})

describe('a Lottie file read into a shot', () => {
  it('becomes Parts of a new Subject by one edit, with the mattes that were written', async () => {
    await importLottie(written())
    expect(edits.made).toHaveLength(1)
    const document = withPatches(documentOf([shot]), edits.made[0]!.patches)
    for (const object of document.objects.values()) expect(objectSchema.parse(object)).toEqual(object)
    expect(brokenObject(document, new Set(document.objects.keys()))).toBeNull()
    expect(allOf(document, 'subject').map(({ name }) => name)).toEqual(['WS 010'])
    expect(partsByDepth(document, 1004).map(({ name }) => name)).toEqual(['hat', 'coat'])
    expect(words()).toBe('2 Parts read from WS 010')
    const box = { left: 240, top: 140, right: 360, bottom: 260 }
    const matteOf = (of: typeof document, name: string, frame: number) => {
      const part = allOf(of, 'part').find((one) => one.name === name)!
      return renderMattes(sceneAt(of, frame), [{ partId: part.id, withHoldouts: false }], { box, motionBlur: false })![0]! // prettier-ignore
    }
    for (const frame of [1001, 1003, 1004, 1006, 1007, 1008]) {
      for (const name of ['hat', 'coat']) {
        const [ours, read] = [scene, document].map((of) => matteOf(of, name, frame))
        const worst = ours!.reduce((most, alpha, i) => Math.max(most, Math.abs(alpha - read![i]!)), 0)
        expect(worst, `${name} ${frame}`).toBeLessThan(0.02)
      }
    }
  })

  it('that has another rate, or parts that are passed over, is told so', async () => {
    const file = JSON.parse(written()) as { fr: number; layers: object[] }
    await importLottie(JSON.stringify({ ...file, fr: 30, layers: [...file.layers, { ty: 5, ip: 0, op: 8 }] }))
    expect(words()).toBe('2 Parts read from WS 010; without layers that are no shapes; frame by frame, though it has 30 a second') // prettier-ignore
  })

  it('that is none changes nothing and is told', async () => {
    await importLottie('{"layers": 3}')
    expect(edits.made).toEqual([])
    expect(words()).toContain('no Lottie file')
  })
})
