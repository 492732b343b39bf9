import { readFileSync } from 'node:fs'
import { gunzipSync } from 'node:zlib'
import { describe, expect, it } from 'vitest'
import { renderMattes, type EdgeGroup, type Scene } from '../raster'
import { applyBatch, batchFromJson, EMPTY_DOCUMENT, type RotoDocument, isConflict } from '../document'
import { sceneAt } from './scene'

/** What a product of before drew at one moment of one frame's open shutter. */
interface Moment {
  frame: number
  u: number
  parts: { id: string; holdsOut: boolean; groups: (Pick<EdgeGroup, 'edge' | 'opacity'> & { outlines: number[][] })[] }[]
}

const fixture = (name: string) => gunzipSync(readFileSync(new URL(`./fixtures/${name}.gz`, import.meta.url))).toString()

/** The head of a log, all its Parts shown. */
function replayed(log: string): RotoDocument {
  const head = log
    .trim()
    .split('\n')
    .reduce<RotoDocument>((document, line, i) => {
      const after = applyBatch(document, batchFromJson(JSON.parse(line)))
      if (isConflict(after)) throw new Error(`Batch ${i}: ${after.reason}`)
      return after
    }, EMPTY_DOCUMENT)
  return {
    objects: new Map([...head.objects].map(([id, one]) => [id, one.kind === 'part' ? { ...one, visible: true } : one])),
  }
}

describe.each(['ws_010', 'figure'])('the log of %s, written by schema version 2', (name) => {
  const document = replayed(fixture(`${name}.v2.log`))
  const moments = JSON.parse(fixture(`${name}.v2.scene.json`)) as Moment[]

  it('opens to the outlines that it had then, within 1e-9 px, with their edges and order', () => {
    for (const { frame, u, parts } of moments) {
      const now = sceneAt(document, frame).parts
      expect(now.map(({ id, holdsOut }) => ({ id, holdsOut }))).toEqual(parts.map(({ id, holdsOut }) => ({ id, holdsOut }))) // prettier-ignore
      for (const [p, { groups }] of parts.entries()) {
        expect(now[p]!.groups).toHaveLength(groups.length)
        for (const [g, group] of groups.entries()) {
          const { edge, opacity, outlinesAt } = now[p]!.groups[g]!
          // There was one falloff then.
          expect({ edge, opacity }).toEqual({ edge: { ...group.edge, falloff: 'smooth' }, opacity: group.opacity })
          expect(largestDistance(outlinesAt(u), group.outlines)).toBeLessThan(1e-9)
        }
      }
    }
  })

  it('gives the mattes that those outlines give, difference 0', () => {
    const { frame, u } = moments[4]!
    expect(u).toBe(0.5)
    const now = sceneAt(document, frame)
    const then: Scene = {
      parts: moments[4]!.parts.map(({ groups, ...part }, p) => ({
        ...part,
        partitions: now.parts[p]!.partitions,
        groups: groups.map(({ outlines, ...group }) => ({
          ...group,
          outlinesAt: () => outlines.map((outline) => Float64Array.from(outline)),
        })),
      })),
    }
    const wanted = now.parts.map(({ id }) => ({ partId: id, withHoldouts: true }))
    const options = { box: { left: 0, top: 0, right: 1280, bottom: 720 }, motionBlur: false }
    const [mattes, expected] = [now, then].map((scene) => renderMattes(scene, wanted, options)!)
    let painted = 0
    mattes!.forEach((matte, m) => {
      expect(Buffer.compare(Buffer.from(matte.buffer), Buffer.from(expected![m]!.buffer))).toBe(0)
      painted += matte.reduce((sum, alpha) => sum + alpha, 0)
    })
    expect(painted).toBeGreaterThan(10_000)
  })
})

/** Largest distance between control points of outlines on the plate, pixels. */
function largestDistance(outlines: readonly ArrayLike<number>[], then: readonly ArrayLike<number>[]): number {
  expect(outlines.map(({ length }) => length)).toEqual(then.map(({ length }) => length))
  let largest = 0
  outlines.forEach((outline, s) => {
    for (let i = 0; i < outline.length; i += 3) {
      const [w, wThen] = [outline[i + 2]!, then[s]![i + 2]!]
      for (const k of [0, 1]) {
        largest = Math.max(largest, Math.abs(outline[i + k]! / w - then[s]![i + k]! / wThen))
      }
    }
  })
  return largest
}
