import { readFileSync } from 'node:fs'
import path from 'node:path'
import { gunzipSync } from 'node:zlib'
import Ajv2020 from 'ajv/dist/2020'
import { describe, expect, it } from 'vitest'
import {
  allOf,
  applyBatch,
  batchFromJson,
  constantChannel,
  EMPTY_DOCUMENT,
  findObject,
  isConflict,
  NEW_OUTPUT_FIELDS,
  POINT,
  POINT_STRIDE,
  sameValue,
  SCHEMA_VERSION,
  toJson,
  type DocumentObject,
  type Patch,
  type RotoDocument,
} from '@tender-lasso/core/document'
import {
  documentOf,
  testBatch,
  testPart,
  testShape,
  testShot,
  testSubject,
} from '@tender-lasso/core/document/testDocuments'
import { objectsDeleted, shotTaken } from '@tender-lasso/core/edits'
import { outlineAt, sceneAt } from '@tender-lasso/core/evaluation'
import { objectsOfParts } from '@tender-lasso/core/handoff'
import { renderMattes } from '@tender-lasso/core/raster'
import { readShotData, shotDataSchema, shotDataText } from './index'

const uneven = testShape('outline', 'coat', [1001, 1010.25], 9)
// Numbers of which no short form is the same.
for (const key of uneven.channels.outline.keys)
  key.values.forEach(
    (value, i) => i % POINT_STRIDE !== POINT.focus && (key.values[i] = value / 3 + Math.sqrt(i + 2) * 1e-9),
  )
const objects: DocumentObject[] = [uneven, testPart('coat'), testSubject, testShot]
const data = { name: 'WS 010', whole: true, objects }
const text = shotDataText(data)
const bent = (change: (file: Record<string, unknown>) => void) => {
  const file = JSON.parse(text) as Record<string, unknown>
  change(file)
  return JSON.stringify(file)
}

describe('shot data', () => {
  it('reads back as it was, to the last bit', () => {
    const read = readShotData(text)
    expect(read).toMatchObject({ name: 'WS 010', whole: true })
    expect(read.objects.map(({ kind }) => kind)).toEqual(['shot', 'subject', 'part', 'shape'])
    for (const object of objects)
      expect(
        sameValue(
          read.objects.find(({ id }) => id === object.id),
          object,
        ),
      ).toBe(true)
    const again = shotDataText(read)
    expect(shotDataText(readShotData(again))).toBe(again)
  })

  it('of an earlier version is lifted to this one', () => {
    // Points had no focus of their own in version 3: ten numbers each.
    const former = bent((file) => {
      file.schemaVersion = 3
      for (const shape of file.objects as { channels?: { outline?: { keys: { values: number[] }[] } } }[]) {
        for (const key of shape.channels?.outline?.keys ?? [])
          key.values = key.values.filter((_, i) => i % POINT_STRIDE !== POINT.focus)
      }
    })
    const shape = readShotData(former).objects.find(({ kind }) => kind === 'shape')
    expect(sameValue(shape, uneven)).toBe(true)
  })

  it.each([
    ['', 'no JSON'],
    ['{"format"', 'no JSON'],
    ['[]', 'object'],
    ['{"format": "another"}', 'not shot data of Tender Lasso'],
    [bent((file) => (file.version = 2)), 'later version'],
    [bent((file) => (file.schemaVersion = SCHEMA_VERSION + 1)), 'later version'],
    [bent((file) => ((file.objects as object[])[3] = { kind: 'shape', id: 'x' })), 'object 4'],
    [bent((file) => ((file.objects as { id: string }[])[1]!.id = '__proto__')), 'object 2 at id'],
    [bent((file) => (file.objects as object[]).push((file.objects as object[])[1]!)), 'two objects have the id'],
    [bent((file) => ((file.objects as { pivot: unknown }[])[2]!.pivot = [0, 1e300])), 'object 3 at pivot'],
    [`${'['.repeat(2e6)}${']'.repeat(2e6)}`, 'cannot be read'],
  ])('is refused with what is wrong: %.40s', (hostile, words) => {
    expect(() => readShotData(hostile)).toThrow(words)
  })
})

/** A shot cut through the interface, with tracks, a rig and Seams: see the README beside it. */
function figure(): RotoDocument {
  const log = gunzipSync(
    readFileSync(path.resolve(import.meta.dirname, '../../core/evaluation/fixtures/figure.v2.log.gz')),
  )
  return log
    .toString()
    .trim()
    .split('\n')
    .reduce<RotoDocument>(
      (document, line) => applied(document, batchFromJson(JSON.parse(line)).patches),
      EMPTY_DOCUMENT,
    )
}

function applied(document: RotoDocument, patches: Patch[]): RotoDocument {
  const after = applyBatch(document, testBatch(patches))
  if (isConflict(after)) throw new Error(after.reason)
  return after
}

const FRAMES = [1001, 1030, 1060]

/** Mattes of Parts on some frames, as bytes. */
const mattesOf = (document: RotoDocument, partIds: readonly string[]) =>
  FRAMES.flatMap((frame) =>
    renderMattes(
      sceneAt(document, frame),
      partIds.map((partId) => ({ partId, withHoldouts: true })),
      { box: { left: 300, top: 100, right: 700, bottom: 600 }, motionBlur: true },
    )!.map((alpha) => Buffer.from(alpha.slice().buffer).toString('base64')),
  )

describe('shot data read into another shot', () => {
  const drawn = figure()
  /** With a shutter of its own, so that it is seen to come along. */
  const shot = { ...findObject(drawn, 'shot', 'shot')!, channels: { shutterAngle: constantChannel(300) } }
  const whole: RotoDocument = { objects: new Map(drawn.objects).set('shot', shot) }
  const bare = documentOf([{ ...shot, channels: {} }])
  const parts = allOf(whole, 'part').map(({ id }) => id)
  const everything = [...whole.objects.values()]
  const through = (given: readonly DocumentObject[]) => readShotData(shotDataText({ name: 'x', whole: true, objects: [...given] })).objects // prettier-ignore
  const taken = (document: RotoDocument, given: readonly DocumentObject[]) => {
    const found = shotTaken(document, through(given))
    if (typeof found === 'string') throw new Error(found)
    return found
  }

  it('makes the same mattes bit for bit, and is undone as one edit', () => {
    const { patches, parts: count } = taken(bare, everything)
    const after = applied(bare, patches)
    expect(count).toBe(parts.length)
    expect(mattesOf(after, parts)).toEqual(mattesOf(whole, parts))
    expect(new Set(mattesOf(after, parts)).size).toBeGreaterThan(FRAMES.length)
    const back = applied(after, patches.map(reversed).reverse())
    expect(sameValue([...back.objects.values()], [...bare.objects.values()])).toBe(true)
  })

  it('once more gives copies of their own, tied among themselves', () => {
    const twice = applied(whole, taken(whole, everything).patches)
    for (const kind of ['part', 'shape', 'track', 'seam', 'subject'] as const) {
      expect(allOf(twice, kind)).toHaveLength(2 * allOf(whole, kind).length)
    }
    const copies = allOf(twice, 'part').filter(({ id }) => !parts.includes(id))
    const ids = new Set(copies.map(({ id }) => id))
    for (const part of copies) if (part.parentId !== null) expect(ids.has(part.parentId)).toBe(true)
    // Without what stands in front they are what their originals are.
    const alone = applied(whole, objectsDeleted(whole, parts))
    const again = applied(alone, taken(alone, everything).patches)
    expect(
      mattesOf(
        again,
        allOf(again, 'part').map(({ id }) => id),
      ).sort(),
    ).toEqual(mattesOf(whole, parts).sort())
  })

  it('a Part comes with what carries and moves it, and lies where it lay', () => {
    const deepest = allOf(whole, 'part').find(({ id, parentId }) => parentId !== null && allOf(whole, 'shape').some(({ partId }) => partId === id))! // prettier-ignore
    const after = applied(bare, taken(bare, objectsOfParts(whole, [deepest.id])).patches)
    const outlines = (document: RotoDocument) =>
      FRAMES.flatMap((frame) => allOf(document, 'shape').filter(({ partId }) => partId === deepest.id).map((shape) => [...outlineAt(document, shape, frame)])) // prettier-ignore
    expect(outlines(after)).toEqual(outlines(whole))
    expect(allOf(after, 'part').length).toBeLessThan(parts.length)
  })

  it('of another plate, or with something missing, is refused whole', () => {
    expect(shotTaken(documentOf([{ ...shot, width: 1920 }]), everything)).toMatch(/plate of 1280/)
    const orphan = everything.filter(({ id }) => id !== allOf(whole, 'shape')[0]!.partId)
    expect(shotTaken(bare, orphan)).toMatch(/gone/)
    expect(shotTaken(documentOf([shot]), [shot])).toMatch(/nothing/)
  })

  it('brings outputs along that the shot does not have, under names of their own', () => {
    const output = { ...NEW_OUTPUT_FIELDS, id: 'a', name: 'Mattes', order: 0 }
    const document = documentOf([shot, output])
    expect(shotTaken(document, [shot, { ...output, id: 'b', order: 7 }])).toMatch(/nothing/)
    const { patches } = taken(document, [shot, { ...output, id: 'b', padding: 6 }])
    expect(patches.map((patch) => patch.kind === 'object' && (patch.after as { name: string }).name)).toEqual([
      'Mattes 2',
    ])
  })
})

const reversed = (patch: Patch): Patch => ({ ...patch, before: patch.after, after: patch.before }) as Patch

describe('the published JSON Schema', () => {
  const validate = new Ajv2020({ strict: false, validateFormats: false }).compile(shotDataSchema())

  it('is the one in the tree (npm run build:schema)', () => {
    const kept = readFileSync(path.resolve(import.meta.dirname, '../../docs/schemas/shot-data.schema.json'), 'utf8')
    expect(JSON.parse(kept)).toEqual(JSON.parse(JSON.stringify(shotDataSchema())))
  })

  it('takes what is written, and nothing of which a number is a word or a kind unknown', () => {
    expect(validate(JSON.parse(text)), JSON.stringify(validate.errors?.[0])).toBe(true)
    expect(validate(JSON.parse(toJson({ ...JSON.parse(text), schemaVersion: 'new' })))).toBe(false)
    expect(validate(JSON.parse(bent((file) => ((file.objects as { kind: string }[])[2]!.kind = 'hat'))))).toBe(false)
    expect(validate(JSON.parse(bent((file) => ((file.objects as { width: unknown }[])[0]!.width = '1280'))))).toBe(
      false,
    )
  })
})
