import { readFileSync } from 'node:fs'
import path from 'node:path'
import { describe, expect, it } from 'vitest'
import { allOf } from '@tender-lasso/core/document'
import { documentOf, testShot } from '@tender-lasso/core/document/testDocuments'
import { shotTaken } from '@tender-lasso/core/edits'
import { motionSamplesOf, sceneAt } from '@tender-lasso/core/evaluation'
import { renderMattes } from '@tender-lasso/core/raster'
import { readShotData } from '@tender-lasso/formats/shotData'
import { truthOf } from '../demo/truth'
import { meanCoverage } from '../demo/scanline'

const { whole, objects } = readShotData(
  readFileSync(path.resolve(import.meta.dirname, '../demo/ws010Cut.json'), 'utf8'),
)
const document = documentOf(objects)
const [width, height] = [1280, 720]

/** Pixels of whole Parts of the film and of the mattes that were cut of them. */
const PIECES: Record<string, readonly string[]> = {
  signboard: ['signboard'],
  hat: ['head'],
  coat: ['torso'],
}

describe('the shot that is cut', () => {
  it('is read as it is kept, and taken into a new shot of the plate', () => {
    expect(whole).toBe(true)
    const taken = shotTaken(documentOf([{ ...testShot, width, height, range: [1001, 1072] }]), objects)
    expect(taken).toMatchObject({ parts: allOf(document, 'part').length })
  })

  it('has something for each step: tracks, a rig, keys, edges and order', () => {
    const tracks = allOf(document, 'track')
    expect(tracks.map(({ name }) => name).sort()).toEqual(['hat', 'post', 'signboard'])
    for (const track of tracks) expect(motionSamplesOf(track).present.filter(Boolean)).toHaveLength(72)
    const parts = allOf(document, 'part')
    expect(parts.filter(({ parentId }) => parentId !== null).length).toBeGreaterThan(8)
    expect(parts.filter(({ channels }) => (channels.pose?.keys.length ?? 0) > 10).length).toBeGreaterThan(6)
    expect(parts.filter(({ mover }) => mover !== null).length).toBeGreaterThan(3)
    expect(allOf(document, 'output')).toHaveLength(3)
  })

  it('lies on the film: not made from its truth, but near it', () => {
    const truth = truthOf(1001, 72, width, height)
    const box = { left: 0, top: 0, right: width, bottom: height }
    for (const frame of [1004, 1030, 1066]) {
      const scene = sceneAt(document, frame)
      for (const [id, names] of Object.entries(PIECES)) {
        const partIds = allOf(document, 'part').filter(({ name }) => names.includes(name)).map((part) => part.id) // prettier-ignore
        const [matte] = renderMattes(scene, partIds.map((partId) => ({ partId, withHoldouts: false })), { box, motionBlur: false })! // prettier-ignore
        const outline = truth.parts.find((part) => part.id === id)!.outlines[frame - 1001]!
        const known = meanCoverage([Float64Array.from(outline)], width, height, 4)
        let [both, own] = [0, 0]
        for (let i = 0; i < known.length; i++) {
          both += Math.min(known[i]!, matte![i]!)
          own += known[i]!
        }
        // The head's Part is the hat and the head: what is asked is that it covers the hat.
        expect(both / own, `${id} on ${frame}`).toBeGreaterThan(0.93)
      }
    }
  })
})
