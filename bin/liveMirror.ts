import { mkdir, readFile, rename, rm, writeFile } from 'node:fs/promises'
import path from 'node:path'
import { EventSource } from 'eventsource'
import { fileNameOf, type LiveEnding, type LiveManifest } from '@tender-lasso/core/handoff'
import { StartError } from './startError'

/** What the folder has of which version; without it every frame would be asked for anew at each start. */
const STATE = '.versions.json'
/** Frames that are asked for at once. */
const LANES = 2
const AGAIN_MS = 1000

export interface MirrorOptions {
  /** Address of the output, its token in it: `http://HOST/live/SHOT/OUTPUT?token=TOKEN`. */
  address: string
  folder: string
  ending: LiveEnding
  /** Called for each frame that was written, or taken away. */
  onFrame(told: { frame: number; file: string; version: string | null; milliseconds: number }): void
  /** Called when the folder is the same as the output, as far as is known. */
  onSettled(told: { sequence: number }): void
  /** Called when the stream broke off and is opened again. */
  onTrouble(why: string): void
}

/**
 * Keeps a folder the same as a live output: asks for what is missing, then for what is told to have changed, the newest first; each file whole or not at all.
 *
 * @param signal  ends it
 * @throws StartError when the address is refused, at once or later
 */
export async function mirror(options: MirrorOptions, signal: AbortSignal): Promise<void> {
  const { folder, ending, onFrame, onSettled, onTrouble } = options
  const base = new URL(options.address)
  const token = base.searchParams.get('token')
  const headers: Record<string, string> = token ? { Authorization: `Bearer ${token}` } : {}
  const at = (name: string) => `${base.origin}${base.pathname.replace(/\/$/, '')}/${name}`
  const asked = async (name: string, more: Record<string, string> = {}) => {
    const answer = await fetch(at(name), { headers: { ...headers, ...more }, signal })
    if (answer.ok || answer.status === 304) return answer
    const problem = (await answer.json().catch(() => null)) as { detail?: string } | null
    throw new StartError(problem?.detail ?? `${answer.status} ${answer.statusText}`)
  }

  const manifest = (await (await asked('manifest.json')).json()) as LiveManifest
  await mkdir(folder, { recursive: true })
  const stem = `${fileNameOf(manifest.shot) || 'shot'}_${fileNameOf(manifest.output) || 'output'}`
  const fileOf = (frame: number) => `${stem}.${frame}.${ending}`
  const has = await stateOf(folder)
  /** Frames to be had, the newest last. */
  const wanted = new Map<number, string | null>()
  let settled: number | null = null
  let working = 0

  const put = async (name: string, bytes: Uint8Array | string) => {
    const half = path.join(folder, `.${name}.half`)
    await writeFile(half, bytes)
    await rename(half, path.join(folder, name))
  }

  const take = async (frame: number, version: string | null) => {
    const start = performance.now()
    const file = fileOf(frame)
    if (version === null) {
      await rm(path.join(folder, file), { force: true })
      has.delete(file)
    } else {
      const known = has.get(file)
      const answer = await asked(`${frame}.${ending}`, known ? { 'If-None-Match': `"${known}"` } : {})
      if (answer.status === 304) return
      await put(file, new Uint8Array(await answer.arrayBuffer()))
      has.set(file, (answer.headers.get('etag') ?? '').replaceAll('"', ''))
    }
    onFrame({ frame, file, version: has.get(file) ?? null, milliseconds: performance.now() - start })
  }

  const lane = async () => {
    working++
    try {
      for (let next = [...wanted].at(-1); next && !signal.aborted; next = [...wanted].at(-1)) {
        wanted.delete(next[0])
        // What failed is asked for again when it is told of again, at the latest when the stream is opened anew.
        await take(...next).catch((error: unknown) => !signal.aborted && onTrouble(`frame ${next![0]}: ${(error as Error).message}`)) // prettier-ignore
      }
    } finally {
      if (--working === 0 && wanted.size === 0) await rest()
    }
  }
  const rest = async () => {
    if (signal.aborted) return
    await put(STATE, JSON.stringify(Object.fromEntries(has)))
    if (settled !== null) onSettled({ sequence: settled })
    settled = null
  }

  await new Promise<void>((resolve, reject) => {
    // Its own way of opening again cannot tell a refusal from a pause.
    let source: EventSource | null = null
    const open = () => {
      source = new EventSource(at('events'), {
        fetch: (address, init) => fetch(address, { ...init, headers: { ...init.headers, ...headers } }),
      })
      source.addEventListener('versions', ({ data }) => {
        const versions = JSON.parse(data as string) as Record<string, string | null>
        // Frames of one event come in the order of their numbers: the first is had first.
        for (const [frame, version] of Object.entries(versions).reverse()) {
          wanted.delete(Number(frame))
          if (has.get(fileOf(Number(frame))) !== version) wanted.set(Number(frame), version)
        }
        while (working < Math.min(LANES, wanted.size)) void lane()
      })
      source.addEventListener('settled', ({ data }) => {
        settled = (JSON.parse(data as string) as { sequence: number }).sequence
        if (working === 0) void rest()
      })
      source.addEventListener('error', ({ message, code }) => {
        source?.close()
        if (signal.aborted) return
        // Who is not let in any more, or whose output is gone, is told so once.
        if (code !== undefined && code >= 400 && code < 500) return reject(new StartError(`The address is refused (${code}): the token was revoked or has ended, or the output is gone`)) // prettier-ignore
        onTrouble(message ?? 'the stream ended')
        setTimeout(open, AGAIN_MS).unref()
      })
    }
    open()
    signal.addEventListener('abort', () => {
      source?.close()
      resolve()
    })
  })
}

async function stateOf(folder: string): Promise<Map<string, string>> {
  try {
    const known = JSON.parse(await readFile(path.join(folder, STATE), 'utf8')) as Record<string, string>
    return new Map(Object.entries(known))
  } catch {
    return new Map()
  }
}
