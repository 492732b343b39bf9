import { spawn, spawnSync, type ChildProcess } from 'node:child_process'
import { cpSync, existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { createServer, type AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { expect, test } from '@playwright/test'
import { freePort } from '../bin/postgres'

const root = path.resolve(import.meta.dirname, '..')
const scratch = mkdtempSync(path.join(tmpdir(), 'launch-'))
test.afterAll(() => rmSync(scratch, { recursive: true, force: true }))

interface Launch {
  child: ChildProcess
  words: () => string
  exit: Promise<number | null>
}

function launch(environment: Record<string, string>): Launch {
  const child = spawn(process.execPath, ['--import', 'tsx', 'bin/launch.ts'], {
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
