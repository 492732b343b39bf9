import { constantSet } from '@tender-lasso/core/edits'
import { channelOf } from '@tender-lasso/core/document'
import { spawn } from 'node:child_process'
import { createHash, randomUUID } from 'node:crypto'
import { chmodSync, mkdtempSync, readFileSync, rmSync } from 'node:fs'
import path from 'node:path'
import sharp from 'sharp'
import {
  applyBatch,
  batchFromJson,
  decodeObjects,
  EMPTY_DOCUMENT,
  findObject,
  isConflict,
  newId,
  sameValue,
  toJson,
  type CommittedBatch,
  NEW_OUTPUT_FIELDS,
  type EditBatch,
  type Output,
  type RotoDocument,
} from '../core/document'
import { objectAdded } from '../core/edits'
import { numbersFrom } from '../core/testing'
import { testBatch, testPart, testShape, testSubject } from '../core/document/testDocuments'
import { ApiProblem, ShotSession, type BatchAnswer, type EditStore, type ShotServer } from '../web/session'
import { freePort } from './postgres'
import { programFile } from './programs'

/**
 * Kills web server, worker, database and tab at random, on loopback, under edits of two clients and a running hand-off;
 * then compares log, acknowledgements, replay and manifest. Usage: `bin/soak [kills] [seed]`; its last line is a count.
 */
const KILLS = Number(process.argv[2] ?? 200)
const SEED = Number(process.argv[3] ?? 14)
const MOST_MINUTES = 3 + KILLS / 5
const FRAMES = 24
const root = path.resolve(import.meta.dirname, '..')
const data = mkdtempSync(path.join(root, '.test-data-soak-'))
// PostgreSQL runs as another user, who must be able to reach its own files.
chmodSync(data, 0o755)
const port = await freePort()
const address = `http://127.0.0.1:${port}`
const until = Date.now() + MOST_MINUTES * 60_000

const random = numbersFrom(SEED)
const sleep = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))
const failures: string[] = []
function check(holds: boolean, what: string) {
  if (!holds) failures.push(what)
}

const application = spawn(process.execPath, [programFile('bin/launch.ts')], {
  cwd: root,
  env: {
    ...process.env,
    PORT: String(port),
    DATABASE_URL: '',
    TENDER_LASSO_DATA: data,
    TENDER_LASSO_DEMO: 'off',
    TENDER_LASSO_LEASE: '2',
    // Deaths are what is wanted: without growing pauses, or little would be under way to be killed.
    TENDER_LASSO_SOAK: '1',
  },
  stdio: ['ignore', 'pipe', 'pipe'],
})
let said = ''
for (const stream of [application.stdout, application.stderr]) stream.on('data', (chunk: Buffer) => (said += chunk.toString())) // prettier-ignore

/** An answer of the server, asked for again while it is away. */
async function asked<Answer>(place: string, init?: RequestInit): Promise<Answer> {
  for (;;) {
    const response = await fetch(`${address}${place}`, { ...init, signal: AbortSignal.timeout(20_000) }).catch(
      () => null,
    )
    if (response?.ok) {
      const answer: unknown = await response.json().catch(() => undefined)
      if (answer !== undefined || response.status === 204) return answer as Answer
    } else if (response && response.status < 500)
      throw new Error(`${place}: ${response.status} ${await response.text()}`)
    if (Date.now() > until) throw new Error(`${place}: no answer until the end`)
    await sleep(250)
  }
}
const posted = (body: unknown): RequestInit => ({
  method: 'POST',
  headers: { 'Content-Type': 'application/json' },
  body: typeof body === 'string' ? body : JSON.stringify(body),
})

async function makeShot(): Promise<string> {
  const { id: projectId } = await asked<{ id: string }>('/api/projects', posted({ name: 'Soak' }))
  const tus = { 'Tus-Resumable': '1.0.0' }
  const files: { upload: string; name: string }[] = []
  for (let i = 0; i < FRAMES; i++) {
    const png = await sharp({
      create: { width: 320, height: 180, channels: 3, background: { r: 8 * i, g: 90, b: 60 } },
    })
      .png()
      .toBuffer()
    const made = await fetch(`${address}/api/uploads`, { method: 'POST', headers: { ...tus, 'Upload-Length': String(png.length) } }) // prettier-ignore
    const place = made.headers.get('location')!
    const headers = { ...tus, 'Upload-Offset': '0', 'Content-Type': 'application/offset+octet-stream' }
    await fetch(new URL(place, address), { method: 'PATCH', headers, body: new Uint8Array(png) })
    files.push({ upload: place.split('/').at(-1)!, name: `s.${1001 + i}.png` })
  }
  const rate = { numerator: 24, denominator: 1 }
  const settings = { name: 'soak', firstFrame: 1001, rate, pixelAspect: 1, colourEncoding: 'sRGB' }
  return (await asked<{ shotId: string }>('/api/shots', posted({ projectId, files, settings }))).shotId
}

/** Who was told that an edit is in the log, and where. */
const acknowledged = new Map<string, number>()
const made = new Set<string>()

/** The server's side as a page has it, but for the feed: what is committed is asked for. */
function serverOf(shotId: string): ShotServer {
  const place = `/api/shots/${shotId}`
  const get = async (query: string): Promise<Response> => {
    const response = await fetch(`${address}${place}${query}`, { signal: AbortSignal.timeout(20_000) }).catch(
      () => null,
    )
    if (!response?.ok)
      throw new ApiProblem(response?.status ?? 0, 'away', (await response?.text().catch(() => '')) ?? 'away')
    return response
  }
  const rows = async (query: string): Promise<CommittedBatch[]> => {
    const list = (await (await get(`/edits?${query}`)).json()) as { sequence: number; batch: unknown }[]
    return list.map(({ sequence, batch }) => ({ sequence, batch: batchFromJson(batch) }))
  }
  return {
    async document() {
      const response = await get('/document')
      const objects = decodeObjects(new Uint8Array(await response.arrayBuffer()))
      return {
        document: { objects: new Map(objects.map((object) => [object.id, object])) },
        sequence: Number(response.headers.get('X-Sequence')),
        damage: null,
      }
    },
    batchesOf: (author) => rows(`author=${author}&limit=200`),
    batchesSince: (sequence) => rows(`since=${sequence}`),
    async submit(batches) {
      const response = await fetch(`${address}${place}/edits`, { ...posted(toJson({ batches })), signal: AbortSignal.timeout(20_000) }).catch(() => null) // prettier-ignore
      if (!response) throw new ApiProblem(0, 'offline', 'away')
      const answers: unknown = await response.json().catch(() => null)
      if (!response.ok || !Array.isArray(answers))
        throw new ApiProblem(response.status, 'refused', JSON.stringify(answers))
      for (const answer of answers as BatchAnswer[]) {
        if (answer.outcome !== 'committed') continue
        const before = acknowledged.get(answer.batchId!)
        check(before === undefined || before === answer.sequence, `${answer.batchId} was told two places`)
        acknowledged.set(answer.batchId!, answer.sequence!)
      }
      return answers as BatchAnswer[]
    },
    follow: () => () => undefined,
  }
}

/** The same server, with what it could not do told. */
function noting(server: ShotServer, tell: (words: string) => void): ShotServer {
  const noted = <Result>(what: string, asked: Promise<Result>) =>
    asked.catch((error: unknown) => {
      tell(`${what}: ${error instanceof ApiProblem ? `${error.status} ${error.code} ${error.message}` : String(error)}`)
      throw error
    })
  return {
    ...server,
    document: (sequence) => noted('document', server.document(sequence)),
    batchesOf: (author) => noted('own edits', server.batchesOf(author)),
    batchesSince: (sequence) => noted('log', server.batchesSince(sequence)),
    submit: (batches) => noted('submit', server.submit(batches)),
  }
}

/** What a browser keeps when its tab is killed. */
class KeptEdits implements EditStore {
  private readonly rows = new Map<string, EditBatch>()
  keep(_shot: string, batch: EditBatch) {
    this.rows.set(batch.batchId, batch)
    made.add(batch.batchId)
    return Promise.resolve()
  }
  forget(batch: EditBatch) {
    this.rows.delete(batch.batchId)
    return Promise.resolve()
  }
  pendingOf() {
    return Promise.resolve({ batches: [...this.rows.values()], unreadable: 0 })
  }
  get size() {
    return this.rows.size
  }
}

class Client {
  readonly store = new KeptEdits()
  aside = 0
  /** What went wrong last, for the report. */
  trouble = ''
  private session: ShotSession | null = null
  private document: RotoDocument = EMPTY_DOCUMENT
  private isOpen = false
  private generation = 0
  private state = ''

  constructor(
    private readonly name: string,
    private readonly shotId: string,
    private readonly parts: readonly string[],
  ) {}

  /** The tab is gone in this moment, with whatever it was about to do; another is opened. */
  async reopen() {
    const own = ++this.generation
    this.isOpen = false
    this.session?.close()
    const session = new ShotSession(
      this.shotId,
      this.name,
      {
        onDocument: (document) => void (own === this.generation && (this.document = document)),
        onSaveState: (state, waiting) => void (this.state = `${state}, ${waiting} waiting`),
        onSetAside: () => void this.aside++,
        onUndoable: () => undefined,
        onTrouble: (words) => own === this.generation && check(false, `${this.name}: ${words}`),
      },
      noting(serverOf(this.shotId), (words) => (this.trouble = words)),
      this.store,
    )
    this.session = session
    while (own === this.generation && Date.now() < until) {
      try {
        await session.open()
        this.isOpen = own === this.generation
        return
      } catch (error) {
        this.trouble = `opening: ${String(error)}`
        await sleep(300)
      }
    }
  }

  get report() {
    return `${this.store.size} edits to send; ${this.isOpen ? 'open' : 'not open'}, ${this.state}; at ${this.session?.settledAt}; last: ${this.trouble}`
  }

  act() {
    if (!this.isOpen) return
    if (random() < 0.1) return void this.session!.undo()
    const part = findObject(this.document, 'part', this.parts[Math.floor(random() * this.parts.length)]!)
    if (!part) return
    const depth = Math.round(1e6 * random()) / 1e3
    this.session!.edit(`depth of ${part.name}`, constantSet(channelOf(part, 'depth'), [depth])) // prettier-ignore
  }

  get isSettled() {
    return this.isOpen && this.store.size === 0 && this.session!.settledAt !== null
  }

  close() {
    this.generation++
    this.session?.close()
  }
}

function kill(name: string) {
  const lock = JSON.parse(readFileSync(path.join(data, 'lock.json'), 'utf8')) as {
    children: { name: string; pid: number }[]
  }
  const child = lock.children.find((one) => one.name === name)
  try {
    if (child) process.kill(child.pid, 'SIGKILL')
  } catch {
    // It has died by itself just now, and is being started again.
  }
}

interface Job {
  id: string
  state: string
  message: string | null
}

async function checkHandoff(shotId: string, jobId: string, mattes: number) {
  const manifest = await asked<{ files: { path: string; frame: number; sha256: string }[] }>(`/api/exports/${jobId}`)
  const frames = new Set(manifest.files.map(({ frame }) => frame))
  check(manifest.files.length === FRAMES * mattes && frames.size === FRAMES, `the manifest of ${jobId} lists ${manifest.files.length} files`) // prettier-ignore
  for (const { path: name, sha256 } of manifest.files) {
    const bytes = readFileSync(path.join(data, 'exports', shotId, jobId, name))
    check(createHash('sha256').update(bytes).digest('hex') === sha256, `${name} is not what the manifest says`)
  }
}

async function soak() {
  for (let i = 0; !said.includes('is ready'); i++) {
    if (i > 1200 || application.exitCode !== null) throw new Error(`The application did not start: ${said.slice(-500)}`)
    await sleep(100)
  }
  const shotId = await makeShot()
  const parts = ['own1', 'own2', 'both', 'other1', 'other2']
  const output: Output = { ...NEW_OUTPUT_FIELDS, id: 'soak', name: 'Soak', order: 9, range: [1001, 1000 + FRAMES] }
  const objects = [testSubject, output, ...parts.map((id) => testPart(id)), ...parts.map((id) => testShape(`${id}-outline`, id, [1001, 1024]))] // prettier-ignore
  const first = { ...testBatch(objects.map(objectAdded)), batchId: newId(), clientId: newId() }
  await asked(`/api/shots/${shotId}/edits`, posted(toJson({ batches: [first] })))
  const clients = [new Client('Ida', shotId, parts.slice(0, 3)), new Client('Ola', shotId, parts.slice(2))]
  await Promise.all(clients.map((client) => client.reopen()))

  let isOver = false
  const acting = (async () => {
    while (!isOver) {
      for (const client of clients) client.act()
      await sleep(60 + 120 * random())
    }
  })()
  const handoffs: string[] = []
  const exporting = (async () => {
    while (!isOver) {
      const { jobId } = await asked<{ jobId: string }>(
        `/api/shots/${shotId}/deliveries`,
        posted({ outputId: output.id }),
      )
      handoffs.push(jobId)
      for (;;) {
        const job = (await asked<Job[]>(`/api/jobs?shot=${shotId}`)).find(({ id }) => id === jobId)
        if (!job || job.state === 'done' || job.state === 'failed') break
        if (Date.now() > until) return check(false, `the hand-off ${jobId} is ${job.state} in the end`)
        await sleep(500)
      }
    }
  })()

  const count: Record<string, number> = {}
  let kills = 0
  for (; kills < KILLS && Date.now() < until; kills++) {
    await sleep(700 + 2600 * random())
    const victim = ['web server', 'worker', 'database', 'tab'][Math.floor(random() * 4)]!
    count[victim] = (count[victim] ?? 0) + 1
    if (victim === 'tab') void clients[Math.floor(random() * 2)]!.reopen()
    else kill(victim)
    process.stdout.write(
      `\r${kills + 1} of ${KILLS} kills, ${acknowledged.size} edits acknowledged, ${handoffs.length} hand-offs `,
    )
  }
  process.stdout.write('\n')
  isOver = true
  await Promise.all([acting, exporting])
  for (let i = 0; i < 600 && !clients.every((client) => client.isSettled); i++) await sleep(200)
  clients.forEach((client, i) => check(client.isSettled, `client ${i} still has ${client.report}`))
  clients.forEach((client) => client.close())

  const log: CommittedBatch[] = []
  for (;;) {
    const rows = await asked<{ sequence: number; batch: unknown }[]>(`/api/shots/${shotId}/edits?since=${log.length}`)
    if (rows.length === 0) break
    log.push(...rows.map(({ sequence, batch }) => ({ sequence, batch: batchFromJson(batch) })))
  }
  log.forEach(({ sequence }, i) => check(sequence === i + 1, `place ${i + 1} of the log holds ${sequence}`))
  const placeOf = new Map(log.map(({ sequence, batch }) => [batch.batchId, sequence]))
  check(placeOf.size === log.length, 'an edit stands in the log twice')
  let lost = 0
  for (const [id, sequence] of acknowledged) if (placeOf.get(id) !== sequence) lost++
  const aside = await asked<{ batchId: string }[]>(`/api/shots/${shotId}/edits?aside=1`)
  const known = new Set([...placeOf.keys(), ...aside.map(({ batchId }) => batchId)])
  // The list of what was set aside ends at a hundred.
  const missing = [...made].filter((id) => !known.has(id)).length
  const asideCount = clients.reduce((sum, client) => sum + client.aside, 0)
  check(lost === 0, `${lost} acknowledged edits are not in the log`)
  check(missing <= Math.max(0, asideCount - aside.length), `${missing} edits are neither in the log nor set aside`)

  let replayed = EMPTY_DOCUMENT
  for (const { sequence, batch } of log) {
    const next = applyBatch(replayed, batch)
    if (isConflict(next)) throw new Error(`Batch ${sequence} does not fit its own log: ${next.reason}`)
    replayed = next
  }
  const opened = (await serverOf(shotId).document()).document
  const isSame = opened.objects.size === replayed.objects.size && [...opened.objects].every(([id, object]) => sameValue(object, replayed.objects.get(id))) // prettier-ignore
  check(isSame, 'the document as opened is not what its log replays to')

  const jobs = await asked<Job[]>(`/api/jobs?shot=${shotId}`)
  let whole = 0
  for (const id of handoffs) {
    const job = jobs.find((one) => one.id === id)
    // The list of jobs ends at fifty.
    if (!job) continue
    if (job.state === 'failed') check(false, `the hand-off ${id} failed: ${job.message}`)
    if (job.state !== 'done') continue
    await checkHandoff(shotId, id, parts.length)
    whole++
  }
  check(whole > 0 || KILLS < 5, 'no hand-off was finished')
  console.log(
    `${log.length} batches in the log, ${asideCount} set aside, ${whole} hand-offs checked; kills: ${JSON.stringify(count)}`,
  )
  return { kills, edits: acknowledged.size }
}

let result = { kills: 0, edits: 0 }
try {
  result = await soak()
} catch (error) {
  failures.push(String(error instanceof Error ? (error.stack ?? error.message) : error))
}
if (application.exitCode === null) {
  application.kill('SIGTERM')
  await new Promise((resolve) => application.once('exit', resolve))
}
if (failures.length) console.error(`${[...new Set(failures)].slice(0, 20).join('\n')}\n${said.slice(-2000)}`)
rmSync(data, { recursive: true, force: true, maxRetries: 5 })
console.log(
  `seed ${SEED}, run ${randomUUID().slice(0, 8)}: ${result.kills} kills, ${result.edits} acknowledged edits, ${failures.length} failures`,
)
process.exit(failures.length || result.kills < KILLS ? 1 : 0)
