import { spawn } from 'node:child_process'
import path from 'node:path'
import { FolderLock } from './folderLock'
import { clusterFiles, requireFreePort, requireWritableFolder } from './postgres'
import { programFile, type Program } from './programs'
import { StartError } from './startError'
import { Supervised } from './supervisor'

/**
 * Starts database, demonstration, worker and web server, prints the address, starts again what dies, and takes everything
 * down on Ctrl-C. PORT (4310), TENDER_LASSO_DATA (.data), DATABASE_URL (own PostgreSQL), TENDER_LASSO_DEMO=off,
 * TENDER_LASSO_FRAMES (72).
 */
const root = path.resolve(import.meta.dirname, '..')
const port = Number(process.env.PORT ?? 4310)
const address = `http://127.0.0.1:${port}`
const dataFolder = path.resolve(process.env.TENDER_LASSO_DATA ?? path.join(root, '.data'))
process.env.TENDER_LASSO_DATA = dataFolder
/** In the order of their start; they end the other way round. */
const supervised: Supervised[] = []
let lock: FolderLock | null = null
let isEnding = false

async function end(code: number) {
  if (isEnding) return
  isEnding = true
  for (const child of supervised.reverse()) await child.end()
  lock?.release()
  process.exit(code)
}
process.on('SIGINT', () => void end(0))
process.on('SIGTERM', () => void end(0))
process.on('SIGHUP', () => void end(0))

function supervise(...[name, start, signal]: [string, () => ReturnType<typeof spawn>, NodeJS.Signals?]) {
  const child = new Supervised(
    name,
    start,
    (pid) => lock?.note(name, pid),
    (why) => {
      console.error(`${why}. Everything is ended; nothing that was stored is lost.`)
      void end(1)
    },
    signal,
  )
  supervised.push(child)
  child.run()
}

function startNode(name: string, program: Program) {
  // Own process groups: a Ctrl-C in the terminal reaches this process alone, which then ends the others in order.
  const child = spawn(process.execPath, [programFile(program)], {
    cwd: root,
    stdio: ['ignore', 'pipe', 'inherit'],
    detached: true,
  })
  child.stdout.on('data', (chunk: Buffer) => {
    if (process.env.TENDER_LASSO_VERBOSE) process.stdout.write(`[${name}] ${chunk.toString()}`)
  })
  return child
}

async function waitForAddress() {
  for (let attempt = 0; attempt < 300 && !isEnding; attempt++) {
    const answer = await fetch(`${address}/api/health`).catch(() => null)
    if (answer?.ok) return
    await new Promise((resolve) => setTimeout(resolve, 100))
  }
  if (!isEnding) throw new StartError('The web server did not answer within 30 seconds')
}

async function start() {
  requireWritableFolder(dataFolder)
  lock = await FolderLock.take(dataFolder, address)
  await requireFreePort(port)
  if (!process.env.DATABASE_URL) {
    const cluster = await clusterFiles(path.join(dataFolder, 'postgresql'))
    process.env.DATABASE_URL = cluster.url
    supervise('database', cluster.start, 'SIGINT')
    await cluster.ready()
  }
  const { migrate, closeOrm } = await import('../server/database')
  await migrate()
  if (process.env.TENDER_LASSO_DEMO !== 'off') {
    const { makeDemonstration } = await import('./demonstration')
    const frames = process.env.TENDER_LASSO_FRAMES
    await makeDemonstration(dataFolder, frames ? Number(frames) : undefined)
  }
  await closeOrm()
  process.env.NODE_ENV = 'production'
  process.env.PORT = String(port)
  supervise('worker', () => startNode('worker', 'worker/main.ts'))
  supervise('web server', () => startNode('web server', 'web/serve.ts'))
  await waitForAddress()
  console.log(`Tender Lasso is ready: ${address}\nCtrl-C ends it.`)
}

start().catch((error: unknown) => {
  console.error(error instanceof StartError ? error.message : error)
  void end(1)
})
