import { execFile, spawn } from 'node:child_process'
import { promisify } from 'node:util'
import { rateFromDecimal, rateName, standardRateBeside, type Rate } from '@tender-lasso/core/timing'
import { Problem } from '../errors'
import type { DecodedFrame } from './frameFiles'
import { FRAMES_AT_ONCE } from './frameThreads'
import { refuseHugeSize } from './plateSize'

const run = promisify(execFile)

/**
 * Only demuxers of movies, whatever a file calls itself: a playlist named .mp4 would have others read local files and
 * addresses.
 */
const SAFE_INPUT = [
  ...['-protocol_whitelist', 'file'],
  ...['-format_whitelist', `mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,${'avi,mxf,mpegts,mpeg,asf,flv,ogg,dv,gxf,nut,ivf,yuv4mpegpipe'}`],
] // prettier-ignore

/** What files of these demuxers are called. */
export const MOVIE_NAME = /\.(mp4|m4v|mov|mkv|webm|avi|mxf|ts|mts|m2ts|mpe?g|vob|wmv|asf|flv|ogv|dv|gxf|nut|ivf|y4m)$/i

export interface ProbedMovie {
  /** As it is shown: turned as its head says. */
  width: number
  height: number
  /** Pictures that its packets promise; only decoding tells how many there are. */
  frameCount: number
  /** The rate that is proposed: a standard one where the movie's own is next to it. */
  rate: Rate
  /** As its head says. */
  ownRate: Rate
  pixelAspect: number
  /** Of each channel, as it is coded. */
  bitDepth: number
  warnings: string[]
}

interface Probed {
  streams: {
    width: number
    height: number
    avg_frame_rate: string
    sample_aspect_ratio?: string
    pix_fmt?: string
    side_data_list?: { rotation?: number }[]
  }[]
  packets?: { pts_time?: string; flags?: string }[]
}

/** What ffprobe says of the picture track. @throws Problem 422 `broken-file` naming the file */
async function probe(file: string, name: string, more: readonly string[] = []): Promise<Probed> {
  const { stdout } = await run(
    'ffprobe',
    ['-v', 'error', '-select_streams', 'v:0', '-of', 'json', '-show_streams', ...more, ...SAFE_INPUT, '-i', file],
    { maxBuffer: 2 ** 28 },
  ).catch(() => {
    throw new Problem(422, 'broken-file', `${name} cannot be read as a movie`)
  })
  return JSON.parse(stdout) as Probed
}

/** @throws Problem 422 `broken-file` naming the file */
export async function probeMovie(file: string, name: string): Promise<ProbedMovie> {
  const probed = await probe(file, name, ['-show_entries', 'packet=pts_time,flags'])
  const stream = probed.streams[0]
  if (!stream) throw new Problem(422, 'broken-file', `${name} has no picture track`)
  refuseHugeSize(name, stream.width, stream.height)
  // Packets that an edit list takes away are read, but not shown.
  const packets = (probed.packets ?? []).filter(({ flags }) => !flags?.includes('D'))
  const hidden = (probed.packets?.length ?? 0) - packets.length
  if (packets.length === 0) throw new Problem(422, 'broken-file', `${name} holds no picture`)
  const { width, height } = await shownSize(file, name)
  const rotation = stream.side_data_list?.find((data) => data.rotation !== undefined)?.rotation ?? 0
  const [aspectX, aspectY] = (stream.sample_aspect_ratio ?? '1:1').split(':').map(Number)
  const aspect = aspectX && aspectY ? aspectX / aspectY : 1
  const [numerator, denominator] = stream.avg_frame_rate.split('/').map(Number)
  const ownRate = numerator && denominator ? { numerator, denominator } : rateFromDecimal(24)
  const standard = standardRateBeside(ownRate)
  const warnings: string[] = []
  if (standard) {
    warnings.push(
      `The movie says ${rateName(ownRate)} frames a second; ${rateName(standard)} is proposed, the standard rate beside it, since clocks of cameras are off by as much`,
    )
  }
  if (rotation % 360 !== 0) warnings.push(`The pictures are turned by ${Math.abs(rotation)} degrees, as the movie asks`)
  if (hidden > 0) warnings.push(`${hidden} pictures are left out, as the movie's edit list asks`)
  if (isUneven(packets.map(({ pts_time }) => Number(pts_time)))) {
    warnings.push('The movie has no steady rate: each of its pictures is one frame here, as long as any other')
  }
  return {
    width,
    height,
    frameCount: packets.length,
    rate: standard ?? ownRate,
    ownRate,
    pixelAspect: Math.abs(rotation) % 180 === 90 ? 1 / aspect : aspect,
    bitDepth: await bitDepthOf(stream.pix_fmt),
    warnings,
  }
}

let bitDepths: Map<string, number> | null = null

/** Bits of the deepest channel of a pixel format, as the decoder itself lists them. */
async function bitDepthOf(format = ''): Promise<number> {
  if (!bitDepths) {
    const { stdout } = await run('ffprobe', ['-v', 'error', '-show_pixel_formats', '-of', 'json'], {
      maxBuffer: 2 ** 24,
    })
    const { pixel_formats: formats } = JSON.parse(stdout) as {
      pixel_formats: { name: string; components?: { bit_depth: number }[] }[]
    }
    bitDepths = new Map(formats.map(({ name, components = [] }) => [name, Math.max(8, ...components.map(({ bit_depth }) => bit_depth))])) // prettier-ignore
  }
  return bitDepths.get(format) ?? 8
}

/** Size of the pictures as they are shown: that of the first one, decoded. */
async function shownSize(file: string, name: string): Promise<{ width: number; height: number }> {
  const { stdout } = await run(
    'ffmpeg',
    ['-v', 'error', ...SAFE_INPUT, '-i', file, ...'-map 0:v:0 -frames:v 1 -f image2pipe -c:v ppm -'.split(' ')],
    { encoding: 'buffer', maxBuffer: 2 ** 30 },
  ).catch(() => ({ stdout: Buffer.alloc(0) }))
  const head = /^P6\s+(\d+)\s+(\d+)\s/.exec(stdout.subarray(0, 64).toString('latin1'))
  if (!head) throw new Problem(422, 'broken-file', `The first picture of ${name} cannot be decoded`)
  return { width: Number(head[1]), height: Number(head[2]) }
}

/** Whether steps between pictures differ by more than the clock of a container rounds them. */
function isUneven(times: readonly number[]): boolean {
  const sorted = times.filter(Number.isFinite).sort((a, b) => a - b)
  const steps = sorted.slice(1).map((time, i) => time - sorted[i]!)
  if (steps.length < 2) return false
  const middle = [...steps].sort((a, b) => a - b)[steps.length >> 1]!
  return steps.some((step) => Math.abs(step - middle) > Math.max(0.0021, middle * 0.2))
}

export interface DecodedMovie {
  frames: number
  /** What the decoder complained of, first things first. */
  complaints: string[]
}

/**
 * By way of planes: straight to interleaved bytes, ffmpeg takes a short cut that has every chroma sample stand for two
 * pixels a side, with edges off by half the range.
 */
const TO_8_BITS = 'scale=flags=bicubic+full_chroma_int,format=gbrp,scale,format=rgb24'
const TO_16_BITS = 'scale=flags=bicubic+full_chroma_int+accurate_rnd,format=rgb48le'

const MOST_COMPLAINTS = 3
/**
 * All pictures of a movie as they are shown, each once, as encoded RGB of 8 bits, or of 16 where there are more than 8.
 *
 * @param onFrame  gets index 0, 1, 2 ..., several at a time
 * @throws Problem 422 `corrupt-file` naming the file when not one picture can be decoded
 */
export async function decodeMovie(
  file: string,
  name: string,
  { width, height }: { width: number; height: number },
  onFrame: (index: number, picture: Pick<DecodedFrame, 'rgb' | 'isChromaHalved'>) => Promise<void>,
  signal?: AbortSignal,
): Promise<DecodedMovie> {
  const [stream] = (await probe(file, name)).streams
  const isDeep = (await bitDepthOf(stream?.pix_fmt)) > 8
  const isChromaHalved = stream?.pix_fmt?.includes('420') ?? false
  const child = spawn(
    'ffmpeg',
    [
      ...['-v', 'error', ...SAFE_INPUT, '-i', file],
      // Every decoded picture once: with a steady output rate ffmpeg would repeat some and drop others.
      ...['-map', '0:v:0', '-fps_mode', 'passthrough', '-vf', isDeep ? TO_16_BITS : TO_8_BITS, '-f', 'rawvideo', '-'],
    ],
    { stdio: ['ignore', 'pipe', 'pipe'] },
  )
  const end = () => void child.kill('SIGKILL')
  signal?.addEventListener('abort', end)
  let complaint = ''
  child.stderr.on('data', (chunk: Buffer) => {
    if (complaint.length < 10_000) complaint += chunk.toString()
  })
  const ended = new Promise<number | null>((resolve, reject) => {
    child.on('close', resolve)
    child.on('error', reject)
  })
  ended.catch(() => undefined)
  const frameBytes = width * height * (isDeep ? 6 : 3)
  let frame = new Uint8Array(frameBytes)
  let filled = 0
  let index = 0
  const underWay = new Set<Promise<void>>()
  let failure: { error: unknown } | null = null
  const begin = (bytes: Uint8Array<ArrayBuffer>) => {
    const work = onFrame(index++, { rgb: isDeep ? new Uint16Array(bytes.buffer) : bytes, isChromaHalved })
      .catch((error: unknown) => void (failure ??= { error }))
      .finally(() => underWay.delete(work))
    underWay.add(work)
  }
  const orFail = async (waiting: Promise<unknown>) => {
    await waiting
    if (failure) throw failure.error
  }
  try {
    for await (const chunk of child.stdout as AsyncIterable<Buffer>) {
      for (let at = 0; at < chunk.length;) {
        const take = Math.min(chunk.length - at, frameBytes - filled)
        frame.set(chunk.subarray(at, at + take), filled)
        at += take
        filled += take
        if (filled < frameBytes) continue
        begin(frame)
        await orFail(underWay.size >= FRAMES_AT_ONCE ? Promise.race(underWay) : Promise.resolve())
        frame = new Uint8Array(frameBytes)
        filled = 0
      }
    }
    await orFail(Promise.all(underWay))
  } finally {
    signal?.removeEventListener('abort', end)
    if (child.exitCode === null) end()
    await Promise.all(underWay)
  }
  signal?.throwIfAborted()
  await ended
  const complaints = complaintsOf(complaint, file, name)
  if (index === 0) {
    throw new Problem(
      422,
      'corrupt-file',
      `${name} cannot be decoded as a movie (${complaints[0] ?? 'no picture in it'})`,
    )
  }
  return { frames: index, complaints }
}

/** Lines of the decoder's complaints, each kind once, without addresses in memory and places on this machine. */
function complaintsOf(text: string, file: string, name: string): string[] {
  const lines = text
    .replaceAll(file, name)
    .split('\n')
    .map((line) => line.replace(/^\[([\w,]+) @ 0x[0-9a-f]+\]\s*/, '').trim())
    .filter((line) => line !== '' && !/^Last message repeated/.test(line))
  return [...new Set(lines)].slice(0, MOST_COMPLAINTS)
}
