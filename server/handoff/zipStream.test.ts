import { execFileSync, spawn } from 'node:child_process'
import { closeSync, ftruncateSync, mkdtempSync, openSync, rmSync, writeFileSync, writeSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import type { ReadableStream as WebStream } from 'node:stream/web'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openStore } from '../store'
import { zipStream } from './zipStream'

let folder: string
beforeAll(() => void (folder = mkdtempSync(path.join(tmpdir(), 'tender-lasso-zip-'))))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

const filesOf = (sizes: Record<string, number>) => ({ files: Object.entries(sizes).map(([name, bytes]) => ({ path: name, frame: 1, bytes, sha256: '' })) }) // prettier-ignore

/** To the disk, with holes where there are zeros: an archive of several GB of them takes next to nothing. */
async function kept(stream: ReadableStream<Uint8Array>, file: string) {
  const dd = spawn('dd', [`of=${file}`, 'conv=sparse', 'bs=1M', 'iflag=fullblock', 'status=none'], { stdio: ['pipe', 'inherit', 'inherit'] }) // prettier-ignore
  const ended = new Promise((resolve) => dd.on('close', resolve))
  await pipeline(Readable.fromWeb(stream as WebStream), dd.stdin)
  await ended
}

describe('a hand-off as an archive', () => {
  it('is read by Info-ZIP and by Python beyond 4 GiB', async () => {
    const large = openSync(path.join(folder, 'large.exr'), 'w')
    writeSync(large, 'begin')
    ftruncateSync(large, 2 ** 32 + 1000)
    writeSync(large, 'end', 2 ** 32 + 500)
    closeSync(large)
    writeFileSync(path.join(folder, 'small.exr'), 'behind what is large')
    writeFileSync(path.join(folder, 'manifest.json'), '{}')
    const file = path.join(folder, 'all.zip')
    await kept(zipStream(openStore(folder), '', filesOf({ 'large.exr': 2 ** 32 + 1000, 'small.exr': 20 })), file)
    // Info-ZIP takes a minute for the large one, Python's checksum is some ten times as fast.
    const behind = execFileSync('unzip', ['-t', file, 'small.exr', 'manifest.json'], { encoding: 'utf8' })
    expect(behind).toContain('No errors detected')
    expect(execFileSync('unzip', ['-l', file, 'large.exr'], { encoding: 'utf8' })).toContain(String(2 ** 32 + 1000))
    const python = `import zipfile; z = zipfile.ZipFile(${JSON.stringify(file)}); print(z.testzip(), z.getinfo('large.exr').file_size, z.read('small.exr').decode())`
    expect(execFileSync('python3', ['-c', python], { encoding: 'utf8' }).trim()).toBe(`None ${2 ** 32 + 1000} behind what is large`) // prettier-ignore
  }, 240_000)

  it('a file that is gone ends the download with an error', async () => {
    writeFileSync(path.join(folder, 'there.exr'), 'x')
    const stream = zipStream(openStore(folder), '', filesOf({ 'there.exr': 1, 'gone.exr': 1 }))
    await expect(new Response(stream).arrayBuffer()).rejects.toThrow()
  })
})
