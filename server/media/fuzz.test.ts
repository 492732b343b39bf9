import { execFileSync } from 'node:child_process'
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { numbersFrom } from '@tender-lasso/core/testing'
import { Problem } from '../errors'
import { decodeMovie, decodePicture, inspectFiles } from './index'

/** Footage that a disk, a network or somebody of ill will has changed: 500 files from a seed. */
const PICTURES = 420
const MOVIES = 80
const SEED = 20261128

let folder: string
const bases: { name: string; bytes: Buffer }[] = []

beforeAll(async () => {
  folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-fuzz-'))
  const noise = Buffer.from(Array.from({ length: 48 * 32 * 3 }, (_, i) => Math.imul(i + 1, 2654435761) >>> 24))
  const picture = () => sharp(noise, { raw: { width: 48, height: 32, channels: 3 } })
  bases.push({ name: 'a.png', bytes: await picture().png().toBuffer() })
  bases.push({ name: 'b.png', bytes: await picture().toColourspace('rgb16').png().toBuffer() })
  bases.push({ name: 'c.jpg', bytes: await picture().jpeg().toBuffer() })
  bases.push({ name: 'd.tif', bytes: await picture().tiff({ compression: 'lzw' }).toBuffer() })
  for (const name of ['e.mp4', 'f.mkv']) {
    const args = ['-v', 'error', '-y', '-f', 'lavfi', '-i', 'testsrc=s=64x48:r=24:d=0.5', '-c:v', 'libx264', name]
    execFileSync('ffmpeg', args, { cwd: folder })
    bases.push({ name, bytes: readFileSync(path.join(folder, name)) })
  }
})
afterAll(() => rmSync(folder, { recursive: true, force: true }))

/** Bytes changed, cut, doubled or filled; most changes lie in the head, where sizes and counts stand. */
function mutated(bytes: Buffer, random: () => number): Buffer {
  let out = Buffer.from(bytes)
  const changes = 1 + Math.floor(6 * random())
  for (let i = 0; i < changes && out.length > 8; i++) {
    const span = random() < 0.6 ? Math.min(out.length, 160) : out.length
    const at = Math.floor(span * random())
    const kind = random()
    if (kind < 0.5) out[at] = Math.floor(256 * random())
    else if (kind < 0.7)
      out.writeUInt32BE(random() < 0.5 ? 0xffffffff : Math.floor(2 ** 32 * random()), Math.min(at, out.length - 4)) // prettier-ignore
    else if (kind < 0.85) out = out.subarray(0, Math.max(1, Math.floor(out.length * random())))
    else out = Buffer.concat([out.subarray(0, at), out.subarray(Math.max(0, at - 40), at), out.subarray(at)])
  }
  return out
}

/** ok, or the words in which the file is refused. Anything else that is thrown is a fault. */
async function outcomeOf(file: { name: string; path: string }): Promise<string> {
  try {
    const plate = await inspectFiles([file])
    if (plate.kind === 'movie') {
      let frames = 0
      await decodeMovie(file.path, file.name, plate, (_, { rgb }) => {
        frames++
        expect(rgb.length).toBe(plate.width * plate.height * 3)
        return Promise.resolve()
      })
      expect(frames).toBeGreaterThan(0)
    } else {
      const { rgb, width, height } = await decodePicture(file.path, file.name)
      expect(rgb.length).toBe(width * height * 3)
    }
    return 'ok'
  } catch (error) {
    if (!(error instanceof Problem)) throw new Error(`${file.name}: ${String(error)}`, { cause: error })
    expect(error.status).toBe(422)
    expect(error.message).toContain(file.name)
    expect(error.message).not.toContain(folder)
    return error.message
  }
}

describe('mutated footage', () => {
  it('is read or refused in words that name the file, 500 times', async () => {
    const random = numbersFrom(SEED)
    const outcomes: string[] = []
    const files = Array.from({ length: PICTURES + MOVIES }, (_, i) => {
      const base = i < PICTURES ? bases[i % 4]! : bases[4 + (i % 2)]!
      const name = `${i}${path.extname(base.name)}`
      const file = { name, path: path.join(folder, name) }
      writeFileSync(file.path, mutated(base.bytes, random))
      return file
    })
    let next = 0
    const lane = async () => {
      while (next < files.length) {
        const file = files[next++]!
        outcomes.push(await outcomeOf(file))
        rmSync(file.path)
      }
    }
    await Promise.all([lane(), lane(), lane()])
    expect(outcomes).toHaveLength(PICTURES + MOVIES)
    // Both happen, or the mutations are of no use.
    expect(outcomes.filter((one) => one === 'ok').length).toBeGreaterThan(20)
    expect(outcomes.filter((one) => one !== 'ok').length).toBeGreaterThan(100)
    expect(existsSync(path.join(folder, '0.png'))).toBe(false)
  }, 300_000)
})
