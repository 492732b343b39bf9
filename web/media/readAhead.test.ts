import { describe, expect, it } from 'vitest'
import { eachTile, tilesUnder } from '@tender-lasso/formats/analysis'
import { identity, squareRound, translation, type Box } from '@tender-lasso/core/geometry'
import type { PictureChannel, TrackRun } from '@tender-lasso/core/tracking'
import { readAhead } from './readAhead'

const PLATE = { width: 2048, height: 1152 }
const FRAMES = 60
const REACH = 16

/** Tiles that are there as soon as they are asked for; tells what was asked for, and what was missing when wanted. */
function tilesAtHand() {
  const here = new Set<string>()
  const requests: { frames: number[]; tiles: number }[] = []
  const missed: { frame: number; channel: PictureChannel }[] = []
  const keysOf = (frame: number, box: Box, channel: PictureChannel) =>
    [...eachTile(tilesUnder(PLATE, box)!)].map(([column, row]) => [channel, frame, column, row].join())
  const isExpected = (frame: number, box: Box, channel: PictureChannel) =>
    keysOf(frame, box, channel).every((key) => here.has(key))
  return {
    requests,
    missed,
    isExpected,
    expect(frames: readonly number[], box: Box, channel: PictureChannel) {
      const keys = frames.flatMap((frame) => keysOf(frame, box, channel))
      requests.push({ frames: [...frames], tiles: keys.length })
      for (const key of keys) here.add(key)
    },
    image(frame: number, box: Box, channel: PictureChannel) {
      if (!isExpected(frame, box, channel)) missed.push({ frame, channel })
      return Promise.resolve({ left: 0, top: 0, width: 0, height: 0, data: new Float32Array(0) })
    },
  }
}

const PLACES = [[600, 400], [760, 430], [900, 640], [640, 700]] as const // prettier-ignore

const runAt = ([x, y]: readonly [number, number], known: TrackRun['known'] = []) =>
  ({
    patterns: [{ frame: 1001, outlines: [squareRound(x, y, 9)], hidden: [], matrix: identity() }],
    steps: Array.from({ length: FRAMES }, (_, i) => ({ frame: 1002 + i, pattern: 0, hidden: [] })),
    known,
  }) as unknown as TrackRun

/** How far a frame so many after the first has gone. */
type Motion = (frame: number) => readonly [number, number]

/** Looks at all points of all frames as a run does, each where a motion has taken it. */
async function lookedAt(
  tiles: ReturnType<typeof tilesAtHand>,
  motion: Motion,
  { runs = PLACES.map((place) => runAt(place)), channel = 'luma' as PictureChannel } = {},
) {
  const source = readAhead(tiles, runs)
  for (let frame = 1001; frame <= 1001 + FRAMES; frame++) {
    const [dx, dy] = motion(frame - 1001)
    for (const [x, y] of PLACES) {
      const [left, top] = [Math.round(x + dx - 9 - REACH), Math.round(y + dy - 9 - REACH)]
      const side = 2 * (9 + REACH)
      await source(frame, { left, top, right: left + side, bottom: top + side }, channel)
    }
  }
}

describe('pictures read ahead of tracks', () => {
  it('come a dozen frames in one request while all stand still', async () => {
    const tiles = tilesAtHand()
    await lookedAt(tiles, () => [0, 0])
    // One for the patterns, and so many as bring all frames, four of which are still there when the next is sent.
    expect(tiles.requests.length).toBeLessThanOrEqual(1 + Math.ceil(FRAMES / 9))
    expect(tiles.missed).toEqual([])
    expect(tiles.requests[0]).toMatchObject({ frames: [1001] })
  })

  it.each([
    ['to the right', (i) => [9 * i, 0]],
    ['up to the left', (i) => [-6 * i, -5 * i]],
    ['to and fro', (i) => [70 * Math.sin(i / 6), 40 * Math.cos(i / 5)]],
  ] as [string, Motion][])('follow a motion %s', async (_, motion) => {
    const tiles = tilesAtHand()
    await lookedAt(tiles, motion)
    expect(tiles.missed).toEqual([])
    expect(tiles.requests.length).toBeLessThanOrEqual(FRAMES / 3)
    // All frames of a rectangle: were the whole plate fetched, there would be 144 tiles a frame.
    const tilesAFrame = tiles.requests.reduce((sum, request) => sum + request.tiles, 0) / FRAMES
    expect(tilesAFrame).toBeLessThan(60)
  })

  it('do not go after a pattern that is looked for farther off', async () => {
    const tiles = tilesAtHand()
    const source = readAhead(tiles, PLACES.map((place) => runAt(place))) // prettier-ignore
    const boxOf = (by: number): Box => ({ left: 580 - by, top: 380 - by, right: 920, bottom: 720 })
    for (let frame = 1001; frame <= 1001 + FRAMES; frame++) await source(frame, boxOf(frame % 2 ? 0 : 60), 'luma')
    expect(tiles.missed).toEqual([])
    expect(tiles.requests.length).toBeLessThanOrEqual(2 + Math.ceil(FRAMES / 9))
  })

  it('are fetched where a track was known last, far from its pattern', async () => {
    const tiles = tilesAtHand()
    const known = [{ frame: 1001, matrix: translation(700, 200), isExact: true }]
    await lookedAt(tiles, (i) => (i ? [700, 200] : [0, 0]), { runs: PLACES.map((place) => runAt(place, known)) }) // prettier-ignore
    expect(tiles.missed).toEqual([])
  })

  it('are those of the channel that is looked at', async () => {
    const tiles = tilesAtHand()
    const source = readAhead(tiles, PLACES.map((place) => runAt(place))) // prettier-ignore
    const box = { left: 580, top: 380, right: 920, bottom: 720 }
    for (const frame of [1002, 1003, 1004]) for (const channel of ['luma', 'red'] as const) await source(frame, box, channel) // prettier-ignore
    expect(tiles.missed).toEqual([])
    expect(tiles.requests).toHaveLength(2)
  })

  it('go with each of two runs that are many frames apart', async () => {
    const tiles = tilesAtHand()
    const steps = (first: number) =>
      Array.from({ length: 15 }, (_, i) => ({ frame: first + i, pattern: 0, hidden: [] }))
    const runs = [1002, 1040].map((first, i) => ({ ...runAt(PLACES[i]!), steps: steps(first) }))
    const source = readAhead(tiles, runs)
    for (let i = 0; i < 15; i++) {
      for (const [k, first] of [1002, 1040].entries()) {
        const [x, y] = PLACES[k]!
        const box = { left: x - 25 + 9 * i, top: y - 25, right: x + 25 + 9 * i, bottom: y + 25 }
        await source(first + i, box, 'luma')
        // The way back to the frame before.
        if (i > 0) await source(first + i - 1, { ...box, left: box.left - 9, right: box.right - 9 }, 'luma')
      }
    }
    expect(tiles.missed).toEqual([])
    expect(tiles.requests.length).toBeLessThanOrEqual(8)
  })
})
