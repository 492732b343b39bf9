import { spawn } from 'node:child_process'
import { mkdtemp, rm, stat } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { once } from 'node:events'
import type { Output, OutputFormat } from '@tender-lasso/core/document'
import { Problem } from '../errors'
import { keys, openStore, sha256OfFile } from '../store'
import { ENDINGS } from './encode'
import { movieOf } from './movieFrames'
import type { Delivery } from './payload'
import type { HandoffTarget, ManifestFile } from './write'

/** Eight bits with half the colour: sides must be even, and what the values mean is said. */
const LOOKED_AT = [
  ...['-vf', 'pad=ceil(iw/2)*2:ceil(ih/2)*2,scale=out_color_matrix=bt709:out_range=tv,format=yuv420p,setsar=SAR'],
  ...['-colorspace', 'bt709', '-color_primaries', 'bt709', '-color_trc', 'iec61966-2-1', '-color_range', 'tv'],
]

const CODING: Partial<Record<OutputFormat, readonly string[]>> = {
  // Version 3 with a checksum a slice; every frame stands by itself.
  ffv1: ['-vf', 'format=gray16le,setsar=SAR', '-c:v', 'ffv1', '-level', '3', '-g', '1', '-slices', '4', '-slicecrc', '1', '-f', 'matroska'], // prettier-ignore
  h264: [...LOOKED_AT, '-c:v', 'libx264', '-preset', 'medium', '-crf', '16', '-movflags', '+faststart+use_metadata_tags', '-f', 'mp4'], // prettier-ignore
  vp9: [...LOOKED_AT, '-c:v', 'libvpx-vp9', '-crf', '20', '-b:v', '0', '-row-mt', '1', '-cpu-used', '4', '-f', 'webm'],
}

/**
 * Puts the pictures of a delivery's frames together as movies, each whole or not at all.
 *
 * @param frames  the pictures, in any order
 * @returns the movies
 * @throws Problem 500 `not-encoded` with what the encoder said
 */
export async function writeMovies(
  { output, range }: Delivery,
  target: HandoffTarget,
  frames: readonly ManifestFile[],
  signal: AbortSignal,
): Promise<ManifestFile[]> {
  const store = openStore(target.store)
  const byMovie = new Map<string, ManifestFile[]>()
  for (const file of frames) {
    const movie = movieOf(file.path)
    byMovie.set(movie, [...(byMovie.get(movie) ?? []), file])
  }
  const made: ManifestFile[] = []
  for (const [movie, files] of byMovie) {
    const inOrder = files.sort((a, b) => a.frame - b.frame).map((file) => keys.below(target.key, file.path))
    // The encoder goes back to the beginning of its file, so that it is written beside the store first.
    const folder = await mkdtemp(path.join(tmpdir(), 'movie-'))
    try {
      const file = path.join(folder, `movie.${ENDINGS[output.format]}`)
      await encoded(inOrder.map((key) => () => store.read(key)), output, target, file, signal) // prettier-ignore
      await store.putFile(keys.below(target.key, movie), file)
      // A long one is larger than memory likes.
      made.push({ path: movie, frame: range[0], bytes: (await stat(file)).size, sha256: await sha256OfFile(file) })
    } finally {
      await rm(folder, { recursive: true, force: true })
    }
  }
  return made
}

async function encoded(
  pictures: readonly (() => Promise<Uint8Array>)[],
  { format, notes }: Output,
  { rate, pixelAspect, shotName }: HandoffTarget,
  file: string,
  signal: AbortSignal,
): Promise<void> {
  const child = spawn(
    'ffmpeg',
    [
      ...['-v', 'error', '-f', 'image2pipe', '-c:v', 'png', '-framerate', `${rate.numerator}/${rate.denominator}`, '-i', '-'], // prettier-ignore
      ...CODING[format]!.map((word) => word.replace('SAR', String(pixelAspect))),
      ...['-metadata', `title=${shotName}`],
      ...notes.flatMap(({ name, value }) => ['-metadata', `${name}=${value}`]),
      ...['-y', file],
    ],
    { stdio: ['pipe', 'ignore', 'pipe'] },
  )
  let complaint = ''
  child.stderr.on('data', (chunk: Buffer) => (complaint = (complaint + chunk.toString()).slice(0, 2000)))
  const ended = new Promise<number | null>((resolve, reject) => child.once('close', resolve).once('error', reject))
  ended.catch(() => undefined)
  // It says itself why it reads no more.
  child.stdin.on('error', () => undefined)
  const stop = () => void child.kill('SIGKILL')
  signal.addEventListener('abort', stop)
  try {
    for (const read of pictures) {
      if (child.exitCode !== null || signal.aborted) break
      if (!child.stdin.write(await read())) await Promise.race([once(child.stdin, 'drain').catch(() => ended), ended])
    }
    child.stdin.end()
    const code = await ended
    signal.throwIfAborted()
    if (code !== 0)
      throw new Problem(500, 'not-encoded', `The movie could not be written (${complaint.split('\n')[0]})`)
  } finally {
    signal.removeEventListener('abort', stop)
    if (child.exitCode === null) stop()
  }
}
