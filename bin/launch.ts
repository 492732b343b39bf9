import { spawn, type ChildProcess } from 'node:child_process'
import { readdirSync } from 'node:fs'
import path from 'node:path'
import { requireFreePort, requireWritableFolder, startCluster, StartError, type Cluster } from './postgres'

/**
 * Starts database, demonstration, worker and web server, prints the address, and takes everything down on Ctrl-C.
 * PORT (4310), TENDER_LASSO_DATA (.data), DATABASE_URL (own PostgreSQL), TENDER_LASSO_DEMO=off, TENDER_LASSO_FRAMES (72).
 */
const root = path.resolve(import.meta.dirname, '..')
const port = Number(process.env.PORT ?? 4310)
const dataFolder = path.resolve(process.env.TENDER_LASSO_DATA ?? path.join(root, '.data'))
process.env.TENDER_LASSO_DATA = dataFolder
const children: ChildProcess[] = []
let cluster: Cluster | null = null
let isEnding = false

async function end(code: number) {
  if (isEnding) return
  isEnding = true
  await Promise.all(
    children.map(
      (child) =>
        new Promise<void>((resolve) => {
          if (child.exitCode !== null || child.signalCode !== null) return resolve()
          child.once('exit', () => resolve())
          child.kill('SIGTERM')
          setTimeout(() => child.kill('SIGKILL'), 5000).unref()
        }),
    ),
  )
  await cluster?.stop()
  process.exit(code)
}
process.on('SIGINT', () => void end(0))
process.on('SIGTERM', () => void end(0))
process.on('SIGHUP', () => void end(0))

function startChild(name: string, args: string[]) {
  // Own process groups: a Ctrl-C in the terminal reaches this process alone, which then ends the others in order.
  const child = spawn(process.execPath, args, { cwd: root, stdio: ['ignore', 'pipe', 'inherit'], detached: true })
  child.stdout!.on('data', (chunk: Buffer) => {
    if (process.env.TENDER_LASSO_VERBOSE) process.stdout.write(`[${name}] ${chunk.toString()}`)
  })
  child.on('exit', (code) => {
    if (isEnding) return
    console.error(`The ${name} ended with code ${code}.`)
    void end(1)
  })
  children.push(child)
}

async function waitForAddress(address: string) {
  for (let attempt = 0; attempt < 300 && !isEnding; attempt++) {
    const answer = await fetch(`${address}/api/health`).catch(() => null)
    if (answer?.ok) return
    await new Promise((resolve) => setTimeout(resolve, 100))
  }
  if (!isEnding) throw new StartError('The web server did not answer within 30 seconds')
}

async function makeDemonstration() {
  const { renderShot } = await import('../demo/renderShot')
  const { createProject, createShot, findShot } = await import('../server/shots')
  const { orm, ProjectEntity } = await import('../server/database')
  const frameCount = Number(process.env.TENDER_LASSO_FRAMES ?? 72)
  const folder = path.join(dataFolder, 'demo', 'ws_010')
  let announced = false
  await renderShot({ folder, width: 1280, height: 720, firstFrame: 1001, frameCount }, (done, total) => {
    announced = true
    process.stdout.write(`\rRendering the demonstration: ${done} of ${total} frames`)
  })
  if (announced) process.stdout.write('\n')
  const shotId = 'demoWS010'
  if (await findShot(shotId).catch(() => null)) return
  const em = (await orm()).em.fork()
  const known = await em.findOne(ProjectEntity, { name: 'Wick Street' })
  const projectId = known?.id ?? (await createProject('Wick Street'))
  const plate = path.join(folder, 'plate')
  const files = readdirSync(plate).map((name) => ({ name, path: path.join(plate, name) }))
  const rate = { numerator: 24, denominator: 1 }
  const settings = {
    name: 'WS_010 lamplighter',
    firstFrame: 1001,
    rate,
    pixelAspect: 1,
    colourEncoding: 'sRGB' as const,
  }
  await createShot(projectId, files, settings, shotId)
}

async function start() {
  requireWritableFolder(dataFolder)
  await requireFreePort(port)
  if (!process.env.DATABASE_URL) {
    cluster = await startCluster(path.join(dataFolder, 'postgresql'))
    process.env.DATABASE_URL = cluster.url
  }
  const { migrate, closeOrm } = await import('../server/database')
  await migrate()
  if (process.env.TENDER_LASSO_DEMO !== 'off') await makeDemonstration()
  await closeOrm()
  process.env.NODE_ENV = 'production'
  startChild('worker', ['--import', 'tsx', 'worker/main.ts'])
  startChild('web server', ['node_modules/next/dist/bin/next', 'start', 'web', '-H', '127.0.0.1', '-p', String(port)])
  const address = `http://127.0.0.1:${port}`
  await waitForAddress(address)
  console.log(`Tender Lasso is ready: ${address}\nCtrl-C ends it.`)
}

start().catch((error: unknown) => {
  console.error(error instanceof StartError ? error.message : error)
  void end(1)
})
