import { describe, expect, it } from 'vitest'
import { cameraAt, mapPoint, planeToPicture, project } from './camera'
import { piecesAt } from './figure'
import { ALONG_A_BONE } from './legs'
import { buildStreet, pictureOutline, renderFrame, truthAlphas } from './renderFrame'
import { meanCoverage } from './scanline'
import type { Colour } from './texture'
import { truthOf } from './truth'

describe('the demonstration', () => {
  it('is deterministic and its mattes agree with what is seen', () => {
    const street = buildStreet(160)
    const first = renderFrame(street, 1010, 160, 90)
    const again = renderFrame(street, 1010, 160, 90)
    expect(Buffer.from(first.picture).equals(Buffer.from(again.picture))).toBe(true)
    // The post stands nearest: what is seen of it is its whole matte, within the two sampling patterns.
    const sum = (values: Uint16Array) => values.reduce((a, b) => a + b, 0) / 65535
    expect(sum(first.visible[0]!)).toBeCloseTo(sum(truthAlphas(1010, 160, 90)[0]!), -1)
    expect(sum(first.visible[0]!)).toBeGreaterThan(100)
  })

  it('the figure passes behind the post for 12 to 20 frames', () => {
    const truth = truthOf(1001, 72, 1280, 720)
    const box = (id: string, i: number) => {
      const outline = truth.parts.find((part) => part.id === id)!.outlines[i]!
      const xs = outline.filter((_, k) => k % 2 === 0)
      return [Math.min(...xs), Math.max(...xs)] as const
    }
    let frames = 0
    for (let i = 0; i < 72; i++) {
      const [postLeft, postRight] = [1, 0].map((side) => {
        const outline = truth.parts[0]!.outlines[i]!
        return outline[side ? 0 : 2]!
      }) as [number, number]
      const [left, right] = box('head', i)
      const coat = box('coat', i)
      if (coat[0] + 15 < postRight && coat[1] - 15 > postLeft) frames++
      expect(right).toBeGreaterThan(left)
    }
    expect(frames).toBeGreaterThanOrEqual(12)
    expect(frames).toBeLessThanOrEqual(22)
  })

  it('homographies carry the outline of the board onto its outline of every frame', () => {
    const truth = truthOf(1001, 20, 1280, 720)
    const board = truth.surfaces.find((s) => s.id === 'signboard')!
    const outlines = truth.parts.find((p) => p.id === 'signboard')!.outlines
    for (const [i, h] of board.homographies.entries()) {
      for (let k = 0; k < 8; k += 2) {
        const [x, y] = mapPoint(h, board.referenceOutline[k]!, board.referenceOutline[k + 1]!)
        expect(Math.hypot(x - outlines[i]![k]!, y - outlines[i]![k + 1]!)).toBeLessThan(1e-3)
      }
    }
    expect(truth.features).toHaveLength(30)
    expect(truth.features.filter((f) => f.visible.some(Boolean)).length).toBeGreaterThan(25)
  })

  it('a plane seen by the camera is the projection of its points (pinhole)', () => {
    const camera = cameraAt(1033, 1280, 720)
    const piece = piecesAt(1033).find((p) => p.id === 'signboard')!
    const h = planeToPicture(camera, piece.origin, piece.alongA, piece.alongB)
    const world = [0, 1, 2].map((i) => piece.origin[i]! + 0.3 * piece.alongA[i]! - 0.2 * piece.alongB[i]!)
    const [x, y] = mapPoint(h, 0.3, -0.2)
    const [px, py] = project(camera, world[0]!, world[1]!, world[2]!)
    expect(Math.hypot(x - px, y - py)).toBeLessThan(1e-9)
    expect(pictureOutline(camera, piece)).toHaveLength(8)
  })

  it('the cloth of the legs stays on its bone from frame to frame, whatever the lamp does to it', () => {
    const places = Array.from({ length: 300 }, (_, i) => [0.05 + 0.008 * (i % 30), -0.05 + 0.01 * Math.floor(i / 30)])
    const greens = (frame: number, bone: number) => {
      const leg = piecesAt(frame).find((p) => p.id === 'near-leg')!
      return places.map(([along, across]) => {
        const out: Colour = [0, 0, 0]
        leg.shade(...leg.surfacePoint(ALONG_A_BONE * bone + along!, across!), out)
        return out[1]!
      })
    }
    for (const bone of [0, 1])
      for (const frame of [1007, 1016]) {
        expect(correlation(greens(1001, bone), greens(frame, bone))).toBeGreaterThan(0.8)
        expect(correlation(greens(1001, bone), greens(frame, 1 - bone))).toBeLessThan(0.7)
      }
  })

  it('mean coverage of a still square is its area, of a moving one the ramp of its edge', () => {
    const square = Float64Array.of(10.25, 5, 20.75, 5, 20.75, 15, 10.25, 15)
    const still = meanCoverage([square], 40, 20, 4)
    expect(still[7 * 40 + 10]).toBeCloseTo(0.75, 6)
    expect(still.reduce((a, b) => a + b)).toBeCloseTo(105, 4)
  })
})

function correlation(a: readonly number[], b: readonly number[]): number {
  const mean = (values: readonly number[]) => values.reduce((x, y) => x + y) / values.length
  const [ma, mb] = [mean(a), mean(b)]
  const sum = (f: (i: number) => number) => a.reduce((total, _, i) => total + f(i), 0)
  return (
    sum((i) => (a[i]! - ma) * (b[i]! - mb)) / Math.sqrt(sum((i) => (a[i]! - ma) ** 2) * sum((i) => (b[i]! - mb) ** 2))
  )
}
