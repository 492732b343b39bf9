import { spawn, spawnSync, type ChildProcess } from 'node:child_process'
import {
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs'
import { createServer, type AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { expect, test } from './test'
import { Client } from 'pg'
import { freePort } from '../bin/postgres'
import { programFile } from '../bin/programs'

const root = path.resolve(import.meta.dirname, '..')
const scratch = mkdtempSync(path.join(tmpdir(), 'launch-'))
test.afterAll(() => rmSync(scratch, { recursive: true, force: true }))

interface Launch {
  child: ChildProcess
  words: () => string
  exit: Promise<number | null>
}

function launch(environment: Record<string, string>): Launch {
  const child = spawn(process.execPath, [programFile('bin/launch.ts')], {
    cwd: root,
    env: { ...process.env, DATABASE_URL: '', TENDER_LASSO_DEMO: 'off', ...environment },
    stdio: ['ignore', 'pipe', 'pipe'],
  })
  let words = ''
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (chunk: Buffer) => (words += chunk.toString()))
  return { child, words: () => words, exit: new Promise((resolve) => child.on('exit', resolve)) }
}

/** Processes that come from `pid`. */
function descendants(pid: number): number[] {
  const parents = readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .map((name) => [Number(name), parentOf(name)] as const)
  const found = [pid]
  for (const parent of found) for (const [child, of] of parents) if (of === parent) found.push(child)
  return found.slice(1)
}

function parentOf(pid: string): number {
  try {
    return Number(/^PPid:\s*(\d+)/m.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1])
  } catch {
    return -1
  }
}

const isRunning = (pid: number) =>
  existsSync(`/proc/${pid}/status`) && !/^State:\s*Z/m.test(readFileSync(`/proc/${pid}/status`, 'utf8'))

test('a port that is taken is named, with what to do', async () => {
  const other = createServer()
  await new Promise<void>((resolve) => other.listen(0, '127.0.0.1', resolve))
  const { port } = other.address() as AddressInfo
  const { words, exit } = launch({ PORT: String(port), TENDER_LASSO_DATA: path.join(scratch, 'port') })
  expect(await exit).toBe(1)
  other.close()
  expect(words()).toContain(`Port ${port} is taken by another program`)
  expect(words()).not.toContain('    at ')
})

test('a data folder that cannot be written is named', async () => {
  const file = path.join(scratch, 'file')
  writeFileSync(file, '')
  const { words, exit } = launch({ PORT: String(await freePort()), TENDER_LASSO_DATA: path.join(file, 'data') })
  expect(await exit).toBe(1)
  expect(words()).toContain(`The data folder ${path.join(file, 'data')} cannot be written`)
  expect(words()).not.toContain('    at ')
})

test('a database of another major version is left alone and named', async () => {
  const data = path.join(scratch, 'other')
  mkdirSync(path.join(data, 'postgresql'), { recursive: true })
  writeFileSync(path.join(data, 'postgresql', 'PG_VERSION'), '99\n')
  const { words, exit } = launch({ PORT: String(await freePort()), TENDER_LASSO_DATA: data })
  expect(await exit).toBe(1)
  expect(words()).toContain('belongs to PostgreSQL 99')
  expect(words()).toContain('Install postgresql-99')
  expect(readdirSync(path.join(data, 'postgresql'))).toEqual(['PG_VERSION'])
})

test('Ctrl-C leaves no process behind, and a second start comes up on the same data', async () => {
  const base = path.join(root, '.test-data', `launch-${process.pid}`)
  const environment = { PORT: String(await freePort()), TENDER_LASSO_DATA: base }
  for (let i = 0; i < 2; i++) {
    const { child, words, exit } = launch(environment)
    await expect.poll(words, { timeout: 60_000 }).toContain('Tender Lasso is ready')
    const database = Number(readFileSync(path.join(base, 'postgresql', 'postmaster.pid'), 'utf8').split('\n')[0])
    const started = [child.pid!, database, ...descendants(child.pid!), ...descendants(database)]
    expect(started.length).toBeGreaterThan(4)
    child.kill('SIGINT')
    expect(await exit).toBe(0)
    expect(started.filter(isRunning)).toEqual([])
  }
  rmSync(base, { recursive: true, force: true })
})

interface Lock {
  children: { name: string; pid: number }[]
}
const pidOf = (data: string, name: string) =>
  (JSON.parse(readFileSync(path.join(data, 'lock.json'), 'utf8')) as Lock).children.find((one) => one.name === name)!
    .pid

/** A data folder that another user, PostgreSQL's, can reach. */
function newData(name: string): string {
  const data = path.join(root, '.test-data', `${name}-${process.pid}`)
  rmSync(data, { recursive: true, force: true })
  return data
}

test('a second start on the same data folder is told where the first one runs, which goes on', async () => {
  const data = newData('second')
  const port = await freePort()
  const first = launch({ PORT: String(port), TENDER_LASSO_DATA: data })
  await expect.poll(first.words, { timeout: 60_000 }).toContain('Tender Lasso is ready')
  for (const other of [port, await freePort()]) {
    const second = launch({ PORT: String(other), TENDER_LASSO_DATA: data })
    expect(await second.exit).toBe(1)
    expect(second.words()).toContain(`already running on the data folder ${data}: http://127.0.0.1:${port}`)
  }
  const health = (await (await fetch(`http://127.0.0.1:${port}/api/health`)).json()) as { database: boolean }
  expect(health.database).toBe(true)

  // The application's role is no superuser, and nobody comes in without its password.
  const access = JSON.parse(readFileSync(path.join(data, 'database.json'), 'utf8')) as { application: { role: string; password: string } } // prettier-ignore
  expect(statSync(path.join(data, 'database.json')).mode & 0o777).toBe(0o600)
  const [, , , databasePort] = readFileSync(path.join(data, 'postgresql', 'postmaster.pid'), 'utf8').split('\n')
  const connect = (password: string | undefined, user = access.application.role) =>
    new Client({ host: '127.0.0.1', port: Number(databasePort), database: 'lasso', user, password })
  for (const client of [connect('wrong'), connect(undefined), connect(undefined, 'owner'), connect('', 'postgres')]) {
    await expect(client.connect()).rejects.toThrow()
  }
  const own = connect(access.application.password)
  await own.connect()
  const { rows } = await own.query(
    'select rolsuper, rolcreaterole, rolcreatedb from pg_roles where rolname = current_user',
  )
  expect(rows).toEqual([{ rolsuper: false, rolcreaterole: false, rolcreatedb: false }])
  await expect(own.query("copy (select 1) to program 'true'")).rejects.toThrow(/permission denied|must be superuser/)
  await expect(own.query("select pg_read_file('postmaster.pid')")).rejects.toThrow(
    /permission denied|must be superuser/,
  )
  await own.end()
  first.child.kill('SIGINT')
  expect(await first.exit).toBe(0)
  rmSync(data, { recursive: true, force: true })
})

test('after kill -9 of the start, the next one ends what was left running and comes up on the same data', async () => {
  const data = newData('killed')
  const environment = { PORT: String(await freePort()), TENDER_LASSO_DATA: data }
  const first = launch(environment)
  await expect.poll(first.words, { timeout: 60_000 }).toContain('Tender Lasso is ready')
  const left = ['database', 'worker', 'web server'].map((name) => pidOf(data, name))
  first.child.kill('SIGKILL')
  await first.exit
  expect(left.filter(isRunning)).toEqual(left)
  const second = launch(environment)
  await expect.poll(second.words, { timeout: 60_000 }).toContain('Tender Lasso is ready')
  expect(second.words()).toContain('Ending the database that an earlier start left running')
  expect(left.filter(isRunning)).toEqual([])
  second.child.kill('SIGINT')
  expect(await second.exit).toBe(0)
  rmSync(data, { recursive: true, force: true })
})

test('what dies is started again, the page says so while it lasts; five deaths in a minute end it with the reason', async ({
  page,
}) => {
  const data = newData('dying')
  const port = await freePort()
  const { words, exit } = launch({ PORT: String(port), TENDER_LASSO_DATA: data })
  await expect.poll(words, { timeout: 60_000 }).toContain('Tender Lasso is ready')
  await page.goto(`http://127.0.0.1:${port}`)
  await expect(page.getByTestId('storage')).toBeVisible()
  await expect(page.getByTestId('health')).toHaveCount(0)
  // Stopped, not killed: away for as long as it takes to be seen.
  const worker = pidOf(data, 'worker')
  process.kill(worker, 'SIGSTOP')
  await expect(page.getByTestId('health')).toHaveText('no worker', { timeout: 30_000 })
  process.kill(worker, 'SIGKILL')
  await expect(page.getByTestId('health')).toHaveCount(0, { timeout: 30_000 })
  expect(words()).toMatch(/The worker ended \(SIGKILL\); 1 in a minute/)
  const database = pidOf(data, 'database')
  process.kill(database, 'SIGKILL')
  await expect.poll(() => pidOf(data, 'database'), { timeout: 30_000 }).not.toBe(database)
  await expect
    .poll(() => page.evaluate(() => fetch('/api/board').then((answer) => answer.status)), { timeout: 30_000 })
    .toBe(200)
  for (let i = 0; i < 5; i++) {
    const before = pidOf(data, 'web server')
    if (i === 0) {
      process.kill(before, 'SIGSTOP')
      await expect(page.getByTestId('health')).toHaveText('server away', { timeout: 30_000 })
    }
    process.kill(before, 'SIGKILL')
    if (i < 4) await expect.poll(() => pidOf(data, 'web server'), { timeout: 30_000 }).not.toBe(before)
  }
  expect(await exit).toBe(1)
  expect(words()).toContain('The web server ended 5 times within a minute, last by SIGKILL. Everything is ended')
  rmSync(data, { recursive: true, force: true })
})

test('without the right to install, the missing packages are named', () => {
  const copy = mkdtempSync(path.join(tmpdir(), 'setup-'))
  mkdirSync(path.join(copy, 'bin'))
  cpSync(path.join(root, 'bin', 'setup.sh'), path.join(copy, 'bin', 'setup.sh'))
  spawnSync('chmod', ['-R', 'a+rX', copy])
  const script = `source ${copy}/bin/setup.sh; ensure_debian bash=bash no-such-program=some-package /no/such/file=other-package`
  const isRoot = process.getuid?.() === 0
  const [command, args] = isRoot
    ? ['runuser', ['-u', 'nobody', '--', 'bash', '-c', script]]
    : ['env', ['PATH=/usr/bin:/bin', 'bash', '-c', script]]
  const { status, stderr } = spawnSync(command as string, args as string[], { encoding: 'utf8', cwd: '/' })
  rmSync(copy, { recursive: true, force: true })
  expect(status).toBe(1)
  expect(stderr).toContain('These Debian packages are missing: some-package other-package')
  expect(stderr).toContain('apt-get install some-package other-package')
})
