import { readFileSync } from 'node:fs'
import path from 'node:path'
import { Resvg } from '@resvg/resvg-js'
import { Ajv2020 } from 'ajv/dist/2020'
import { describe, expect, it } from 'vitest'
import { constantChannel, type Part, type Shape } from '@tender-lasso/core/document'
import { documentOf, testPart, testShape, testShot, testSubject } from '@tender-lasso/core/document/testDocuments'
import { sceneAt } from '@tender-lasso/core/evaluation'
import { renderMattes, type Scene } from '@tender-lasso/core/raster'
import type { HomogeneousOutline } from '@tender-lasso/core/spline'
import { bakedOutlinesJsonSchema, bakedOutlinesSchema, writeBakedOutlines } from './index'

const [width, height] = [400, 300]
const validate = new Ajv2020({ strict: false }).compile(bakedOutlinesJsonSchema())

const scenesOf = (shape: Partial<Shape>, part: Partial<Part> = {}) => {
  const document = documentOf([
    { ...testShot, width, height },
    testSubject,
    { ...testPart('coat'), ...part },
    { ...testShape('s', 'coat', [1001, 1003], 8, 60), ...shape },
  ])
  return [1001, 1002, 1003].map((frame) => sceneAt(document, frame))
}

function written(scenes: readonly Scene[]) {
  const { text, ...rest } = writeBakedOutlines({
    title: 'WS_010 Ä "x"',
    width,
    height,
    pixelAspect: 2,
    rate: { numerator: 24000, denominator: 1001 },
    nameOf: (id) => ({ name: id, colour: '#20a0ff' }),
    frames: scenes.map((scene, i) => ({ frame: 1001 + i, scene })),
  })
  const value: unknown = JSON.parse(text)
  expect(validate(value), JSON.stringify(validate.errors?.[0])).toBe(true)
  return { baked: bakedOutlinesSchema.parse(value), ...rest }
}

type Frame = ReturnType<typeof written>['baked']['frames'][number]

/** The outlines of a frame as resvg fills them, from the words of the format alone: cubic curves from anchor to anchor, each frame's Parts nearest first. */
function drawn(frame: Frame, zoom = 16): Float32Array {
  const paths = frame.parts.flatMap(({ layers }) =>
    layers.flatMap(({ outlines }) =>
      outlines.map((corners) => {
        const curves = corners.map(({ leaving, arriving }, i) => {
          const next = corners[(i + 1) % corners.length]!.anchor
          return `C${leaving} ${arriving} ${next}`
        })
        return `<path d="M${corners[0]!.anchor}${curves.join('')}Z"/>`
      }),
    ),
  )
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}">${paths.join('')}</svg>`
  const { pixels } = new Resvg(svg, { fitTo: { mode: 'zoom', value: zoom } }).render()
  const alpha = new Float32Array(width * height)
  for (let i = 0; i < alpha.length; i++) {
    const corner = zoom * (Math.floor(i / width) * width * zoom + (i % width))
    let sum = 0
    for (let y = 0; y < zoom; y++)
      for (let x = 0; x < zoom; x++) sum += pixels[4 * (corner + y * width * zoom + x) + 3]!
    alpha[i] = sum / (255 * zoom * zoom)
  }
  return alpha
}

const matteOf = (scene: Scene) =>
  renderMattes(scene, [{ partId: 'coat', withHoldouts: false }], {
    box: { left: 0, top: 0, right: width, bottom: height },
    motionBlur: false,
  })![0]!

function expectDrawnAlike(scenes: readonly Scene[]) {
  const { baked, deviation } = written(scenes)
  expect(baked.frames.map(({ frame }) => frame)).toEqual(scenes.map((_, i) => 1001 + i))
  scenes.forEach((scene, i) => {
    const [ours, theirs] = [matteOf(scene), drawn(baked.frames[i]!)]
    expect(ours.reduce((sum, value) => sum + value, 0)).toBeGreaterThan(1000)
    expect(ours.reduce((most, value, p) => Math.max(most, Math.abs(value - theirs[p]!)), 0)).toBeLessThan(3 / 255)
  })
  expect(deviation).toBeLessThan(0.25)
}

describe('outlines as JSON, frame by frame', () => {
  it('are drawn by resvg as our own mattes are, frame by frame', () => {
    expectDrawnAlike(scenesOf({}))
    expectDrawnAlike(scenesOf({ curve: 'bspline' }))
  })

  it('are so under perspective, and say by how much they are off', () => {
    const scenes = scenesOf({})
    const tilted = scenes.map((scene): Scene => {
      const tilt = (outline: HomogeneousOutline) => {
        const out = outline.slice()
        for (let i = 0; i < out.length; i += 3) out[i + 2] = out[i + 2]! + 0.001 * (outline[i]! - 300)
        return out
      }
      const [part] = scene.parts
      return {
        parts: [{ ...part!, groups: part!.groups.map((group) => ({ ...group, outlinesAt: (u) => group.outlinesAt(u).map(tilt) })) }], // prettier-ignore
      }
    })
    expectDrawnAlike(tilted)
  })

  it('hold the edges, and say what of them has no place there', () => {
    const edges = {
      innerFeather: constantChannel(2),
      outerFeather: constantChannel(3.5),
      grow: constantChannel(-1),
      focus: constantChannel(0.75),
      opacity: constantChannel(0.5),
    }
    const shape = testShape('s', 'coat', [1001], 8, 60)
    const scenes = scenesOf({ channels: { ...shape.channels, ...edges } })
    const { baked, lost } = written(scenes)
    const [part] = baked.frames[0]!.parts
    expect(part).toMatchObject({ name: 'coat', colour: '#20a0ff', blackPoint: 0, whitePoint: 1, opacity: 1 })
    expect(part!.layers[0]).toMatchObject({
      operation: 'add',
      featherIn: 2,
      featherOut: 3.5,
      grow: -1,
      focus: 0.75,
      opacity: 0.5,
    })
    expect(lost).toEqual([])
    const [group] = scenes[0]!.parts[0]!.groups
    const ofPoints: Scene = { parts: [{ ...scenes[0]!.parts[0]!, groups: [{ ...group!, wideOutlinesAt: () => [], focusedOutlines: () => [] }] }] } // prettier-ignore
    expect(written([ofPoints]).lost).toEqual(['feather of single points', 'focus blur of single points'])
    const sparing: Scene = { parts: [{ ...scenes[0]!.parts[0]!, spares: ['hat'] }] }
    expect(written([sparing]).lost).toEqual(['holdouts of single pairs'])
  })

  it('have nothing on a frame on which nothing is seen', () => {
    expect(written([{ parts: [] }]).baked.frames).toEqual([{ frame: 1001, parts: [] }])
  })

  it('have the published schema of the tree (npm run build:schema)', () => {
    const kept = readFileSync(path.resolve(import.meta.dirname, '../../docs/schemas/outlines.schema.json'), 'utf8')
    expect(JSON.parse(kept)).toEqual(JSON.parse(JSON.stringify(bakedOutlinesJsonSchema())))
    expect(validate({ ...written([]).baked, version: 2 })).toBe(false)
  })
})
