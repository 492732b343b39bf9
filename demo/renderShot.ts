import { fork } from 'node:child_process'
import { mkdir, readFile, rename, rm, writeFile } from 'node:fs/promises'
import { availableParallelism } from 'node:os'
import path from 'node:path'
import { fileURLToPath } from 'node:url'
import { truthOf } from './truth'

export interface ShotOptions {
  folder: string
  width: number
  height: number
  firstFrame: number
  frameCount: number
}

/** Raised whenever a picture would come out differently, so that cached shots are rendered anew. */
const RENDERER_VERSION = 8

export const platePath = (folder: string, frame: number) => path.join(folder, 'plate', `ws_010.${frame}.png`)
export const alphaPath = (folder: string, part: string, frame: number) =>
  path.join(folder, 'truth', 'alpha', part, `${frame}.png`)
export const visiblePath = (folder: string, part: string, frame: number) =>
  path.join(folder, 'truth', 'visible', part, `${frame}.png`)
const truthPath = (folder: string) => path.join(folder, 'truth', 'truth.json')

/**
 * Renders shot WS_010 with its truth into `folder`, in one process per core. Finished shots of the same size are kept;
 * a half-rendered one is started again.
 */
export async function renderShot(
  options: ShotOptions,
  onProgress: (done: number, total: number) => void,
): Promise<void> {
  const stamp = JSON.stringify({ version: RENDERER_VERSION, ...options, folder: undefined })
  const stampPath = path.join(options.folder, 'rendered.json')
  if ((await readFile(stampPath, 'utf8').catch(() => '')) === stamp) return
  const building = `${options.folder}.building`
  await rm(building, { recursive: true, force: true })
  await mkdir(path.join(building, 'truth'), { recursive: true })
  const workers = Math.max(1, Math.min(availableParallelism(), 8))
  let done = 0
  await Promise.all(
    Array.from({ length: workers }, (_, worker) =>
      renderShare({ ...options, folder: building }, worker, workers, () => onProgress(++done, options.frameCount)),
    ),
  )
  const truth = truthOf(options.firstFrame, options.frameCount, options.width, options.height)
  await writeFile(truthPath(building), JSON.stringify(truth))
  await writeFile(path.join(building, 'rendered.json'), stamp)
  await rm(options.folder, { recursive: true, force: true })
  await rename(building, options.folder)
}

function renderShare(options: ShotOptions, worker: number, workers: number, onFrame: () => void): Promise<void> {
  return new Promise((resolve, reject) => {
    const file = fileURLToPath(new URL('./renderWorker.ts', import.meta.url))
    const child = fork(file, [JSON.stringify({ options, worker, workers })], {
      execArgv: file.endsWith('.ts') ? ['--import', 'tsx'] : [],
      stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    })
    child.on('message', onFrame)
    child.on('error', reject)
    child.on('exit', (code) =>
      code === 0 ? resolve() : reject(new Error(`The demo renderer ended with code ${code}`)),
    )
  })
}
