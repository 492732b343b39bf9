import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { keepOriginal, keys, openStore } from '../store'
import { decodeMovie, ingestMovie, inspectFiles, type IngestedShot } from './index'

let folder: string
beforeAll(() => void (folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-movie-'))))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

const at = (name: string) => path.join(folder, name)
const ffmpeg = (...args: string[]) => execFileSync('ffmpeg', ['-v', 'error', '-y', ...args], { cwd: folder })

/** 48 pictures of 64 x 48, losslessly coded, each a grey of its own; the upper left quarter is white. */
function makeMovie(name: string, more: string[] = [], source = 'r=24:d=2') {
  const picture = `nullsrc=s=64x48:${source},format=gray,geq=lum='if(lt(X,32)*lt(Y,24),255,2*N)',format=yuv420p`
  ffmpeg('-f', 'lavfi', '-i', picture, '-c:v', 'libx264', '-qp', '0', '-bf', '0', ...more, name)
}

async function pictures(name: string) {
  const [plate] = [await inspectFiles([{ name, path: at(name) }])]
  const greys: number[] = []
  const corners: number[][] = []
  const { width, height } = plate
  const result = await decodeMovie(at(name), name, plate, (index, { rgb }) => {
    expect(index).toBe(greys.length)
    const grey = (x: number, y: number) => Math.round(rgb[(y * width + x) * 3]! / (rgb instanceof Uint8Array ? 1 : 257))
    corners.push([grey(4, 4), grey(width - 5, 4), grey(4, height - 5), grey(width - 5, height - 5)])
    greys.push(Math.min(...corners.at(-1)!))
    return Promise.resolve()
  })
  return { plate, greys, corners, ...result }
}

describe('movies as they are shown', () => {
  it('a turned movie has the turned size and its pictures upright', async () => {
    makeMovie('plain.mp4')
    ffmpeg('-i', 'plain.mp4', '-c', 'copy', '-metadata:s:v', 'rotate=90', 'turned.mp4')
    const { plate, frames, corners } = await pictures('turned.mp4')
    expect([plate.width, plate.height, frames]).toEqual([48, 64, 48])
    expect(plate.warnings.join()).toContain('turned by 90 degrees')
    // The white quarter lies in one corner, whole: a scrambled picture has it everywhere.
    for (const four of corners) expect(four.filter((grey) => grey > 200)).toHaveLength(1)
    // ffprobe tells by how much the head turns the picture counterclockwise: upper left goes to lower left, or else to upper right.
    const probe = execFileSync('ffprobe', ['-v', 'error', '-show_streams', '-of', 'json', at('turned.mp4')]).toString()
    const counterclockwise = /"rotation": (-?90)/.exec(probe)![1] === '90'
    expect(corners[0]!.indexOf(Math.max(...corners[0]!))).toBe(counterclockwise ? 2 : 1)
  })

  it('a movie of uneven rate has each of its pictures once', async () => {
    // Every other picture stays three times as long.
    makeMovie('uneven.mp4', [
      '-vf',
      'setpts=N*2+gte(mod(N\\,2)\\,1)',
      '-fps_mode',
      'passthrough',
      '-enc_time_base',
      '1/72',
    ])
    const { plate, frames, greys } = await pictures('uneven.mp4')
    expect([plate.frameCount, frames]).toEqual([48, 48])
    expect(new Set(greys).size).toBe(48)
    expect(plate.warnings.join()).toContain('no steady rate')
  })

  it('what an edit list takes away is not shown', async () => {
    makeMovie('whole.mp4', ['-g', '48'])
    ffmpeg('-ss', '0.5', '-i', 'whole.mp4', '-c', 'copy', 'cut.mp4')
    const { plate, frames, greys } = await pictures('cut.mp4')
    expect(frames).toBe(36)
    expect(plate.frameCount).toBe(36)
    expect(greys[0]).toBeGreaterThan(15)
    expect(plate.warnings.join()).toContain('12 pictures are left out')
  })

  it('of one with a damaged end the shot has the pictures that are there, and says so', async () => {
    makeMovie('long.mkv')
    const bytes = readFileSync(at('long.mkv'))
    ffmpeg('-i', 'long.mkv', '-c', 'copy', '-movflags', '+faststart', 'long.mp4')
    const whole = readFileSync(at('long.mp4'))
    expect(bytes.length).toBeGreaterThan(0)
    writeFileSync(at('damaged.mp4'), whole.subarray(0, Math.floor(whole.length * 0.7)))
    const plate = await inspectFiles([{ name: 'damaged.mp4', path: at('damaged.mp4') }])
    const sources = [{ name: 'damaged.mp4', hash: await keepOriginal(openStore(folder), at('damaged.mp4')) }]
    const shot: IngestedShot = { id: 'damaged', width: plate.width, height: plate.height, firstFrame: 1001, lastFrame: 1000 + plate.frameCount, sources, colourEncoding: 'Rec.709' } // prettier-ignore
    const seen: number[] = []
    const { lastFrame, warnings } = await ingestMovie(shot, folder, { onFrame: (done) => Promise.resolve(void seen.push(done)) }) // prettier-ignore
    const frames = lastFrame - 1000
    expect(frames).toBeLessThan(48)
    expect(frames).toBeGreaterThan(10)
    expect(seen.at(-1)).toBe(frames)
    expect(() => readFileSync(at(keys.frame('damaged', lastFrame, 'analysis')))).not.toThrow()
    expect(() => readFileSync(at(keys.frame('damaged', lastFrame + 1, 'analysis')))).toThrow()
    const words = warnings.join(' | ')
    expect(words).toMatch(/damaged/)
    expect(words).not.toContain(folder)
    if (plate.frameCount !== frames) expect(words).toContain(`promises ${plate.frameCount} pictures, and ${frames} could be read`) // prettier-ignore
  })

  it.each([
    ['frames.avi', '-c:v mjpeg -q:v 2'],
    ['frames.mxf', '-c:v mpeg2video -b:v 20M -r 25'],
    ['frames.ts', '-c:v libx264 -qp 0'],
    ['frames.mpg', '-c:v mpeg2video -b:v 20M -r 25'],
    ['frames.flv', '-c:v flv1 -q:v 2'],
    ['frames.wmv', '-c:v wmv2 -q:v 2'],
    ['frames.y4m', '-c:v wrapped_avframe'],
  ])('%s opens like MP4, each picture once', async (name, codec) => {
    ffmpeg('-i', 'plain.mp4', ...codec.split(' '), name)
    const { plate, frames, greys } = await pictures(name)
    expect([plate.kind, plate.width, plate.height]).toEqual(['movie', 64, 48])
    // MPEG knows no 24 exactly in all boxes; what is asked is every picture, in its order.
    expect(frames).toBe(plate.frameCount)
    expect(frames).toBeGreaterThanOrEqual(48)
    for (let i = 1; i < greys.length; i++) expect(greys[i]!).toBeGreaterThanOrEqual(greys[i - 1]!)
  })

  it.each([
    ['deep.mov', '-c:v prores_ks -profile:v 3 -pix_fmt yuv422p10le', 10],
    ['deep.mxf', '-c:v dnxhd -profile:v dnxhr_hqx -pix_fmt yuv422p10le', 10],
    ['deep.avi', '-c:v ffv1 -pix_fmt yuv422p10le', 10],
    ['deep.mkv', '-c:v ffv1 -pix_fmt gbrp12le', 12],
  ])('%s keeps its bits: a ramp has more than 256 steps', async (name, codec, bits) => {
    const ramp = 'nullsrc=s=1024x128:r=25:d=0.2,format=gray10le,geq=lum=X'
    ffmpeg('-f', 'lavfi', '-i', ramp, ...codec.split(' '), name)
    const plate = await inspectFiles([{ name, path: at(name) }])
    expect(plate.bitDepth).toBe(bits)
    const row: number[] = []
    await decodeMovie(at(name), name, plate, (index, { rgb }) => {
      if (index === 0) for (let x = 0; x < 1024; x++) row.push(rgb[(64 * 1024 + x) * 3 + 1]!)
      return Promise.resolve()
    })
    expect(new Set(row).size).toBeGreaterThan(600)
  })

  it('a rate next to a standard one proposes that and says why', async () => {
    makeMovie('phone.mp4', ['-video_track_timescale', '29966'], 'r=29966/1000:d=1')
    const plate = await inspectFiles([{ name: 'phone.mp4', path: at('phone.mp4') }])
    expect(plate.rate).toEqual({ numerator: 30000, denominator: 1001 })
    expect(plate.ownRate).toEqual({ numerator: 14983, denominator: 500 })
    expect(plate.warnings.join()).toContain('29.966 frames a second; 29.97 is proposed')
  })

  it('a frame that cannot be stored ends the decoding with its error', async () => {
    const plate = await inspectFiles([{ name: 'plain.mp4', path: at('plain.mp4') }])
    let begun = 0
    const full = (index: number) => (begun++, index === 3 ? Promise.reject(new Error('disk full')) : Promise.resolve())
    await expect(decodeMovie(at('plain.mp4'), 'plain.mp4', plate, full)).rejects.toThrow('disk full')
    expect(begun).toBeLessThan(7)
  })

  it('a playlist that calls itself a movie is not opened', async () => {
    makeMovie('secret.mp4')
    writeFileSync(at('list.mp4'), '#EXTM3U\n#EXT-X-TARGETDURATION:2\n#EXTINF:2,\nsecret.mp4\n#EXT-X-ENDLIST\n')
    writeFileSync(at('concat.mp4'), "ffconcat version 1.0\nfile 'secret.mp4'\n")
    for (const name of ['list.mp4', 'concat.mp4']) {
      await expect(inspectFiles([{ name, path: at(name) }])).rejects.toThrow(`${name} cannot be read as a movie`)
    }
  })
})
