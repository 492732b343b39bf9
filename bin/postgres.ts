import { execFile, spawnSync } from 'node:child_process'
import { existsSync, readdirSync, readFileSync, writeFileSync, chownSync, mkdirSync } from 'node:fs'
import { createServer } from 'node:net'
import path from 'node:path'
import { promisify } from 'node:util'

const run = promisify(execFile)

export interface Cluster {
  url: string
  stop(): Promise<void>
}

/** A message for the person at the terminal; no stack is shown for it. */
export class StartError extends Error {}

const BINARIES = '/usr/lib/postgresql'

function newestMajor(): string {
  const majors = readdirSync(BINARIES).filter((name) => existsSync(path.join(BINARIES, name, 'bin', 'initdb')))
  const newest = majors.sort((a, b) => Number(b) - Number(a))[0]
  if (!newest) throw new StartError('PostgreSQL is not installed: install the Debian package postgresql')
  return newest
}

/**
 * Starts a private PostgreSQL on loopback with its files in `folder`, made when missing. As root it runs as the user
 * postgres, otherwise as the caller.
 *
 * @throws StartError with what to do
 */
export async function startCluster(folder: string): Promise<Cluster> {
  const asRoot = process.getuid?.() === 0
  const versionFile = path.join(folder, 'PG_VERSION')
  const hasCluster = existsSync(versionFile)
  const installed = newestMajor()
  const major = hasCluster ? readFileSync(versionFile, 'utf8').trim() : installed
  if (!existsSync(path.join(BINARIES, major, 'bin', 'postgres'))) {
    throw new StartError(
      `The data folder ${folder} belongs to PostgreSQL ${major}, but only ${installed} is installed.\n` +
        `Install postgresql-${major}, or move the folder away to begin with an empty database.`,
    )
  }
  const binary = (name: string) => path.join(BINARIES, major, 'bin', name)
  const asOwner = (command: string, args: string[]) =>
    asRoot ? run('runuser', ['-u', 'postgres', '--', command, ...args], { cwd: '/' }) : run(command, args, { cwd: '/' })
  if (!hasCluster) {
    mkdirSync(path.dirname(folder), { recursive: true })
    mkdirSync(folder, { recursive: true, mode: 0o700 })
    if (asRoot) {
      const [uid, gid] = ['-u', '-g'].map((flag) =>
        Number(spawnSync('id', [flag, 'postgres'], { encoding: 'utf8' }).stdout),
      )
      chownSync(folder, uid!, gid!)
    }
    await asOwner(binary('initdb'), [
      '-D',
      folder,
      '-U',
      'lasso',
      '--auth=trust',
      '--encoding=UTF8',
      '--locale=C.UTF-8',
    ]).catch((error: { stderr?: string }) => {
      throw new StartError(
        `PostgreSQL could not make its files in ${folder}: ${(error.stderr ?? String(error)).trim()}\n` +
          (asRoot ? 'The user postgres must be able to reach the folder; TENDER_LASSO_DATA names another.' : ''),
      )
    })
  }
  await asOwner(binary('pg_ctl'), ['-D', folder, 'status']).then(
    () => asOwner(binary('pg_ctl'), ['-D', folder, '-w', '-m', 'fast', 'stop']),
    () => undefined,
  )
  const port = await freePort()
  const log = path.join(folder, 'server.log')
  const options = `-p ${port} -c listen_addresses=127.0.0.1 -c unix_socket_directories=`
  await asOwner(binary('pg_ctl'), ['-D', folder, '-w', '-l', log, '-o', options, 'start']).catch(() => {
    const tail = existsSync(log) ? readFileSync(log, 'utf8').trim().split('\n').slice(-5).join('\n') : ''
    throw new StartError(`PostgreSQL did not start:\n${tail}`)
  })
  const url = `postgres://lasso@127.0.0.1:${port}/lasso`
  await asOwner(binary('createdb'), ['-h', '127.0.0.1', '-p', String(port), '-U', 'lasso', 'lasso']).catch(
    () => undefined,
  )
  return {
    url,
    stop: () =>
      asOwner(binary('pg_ctl'), ['-D', folder, '-w', '-m', 'fast', 'stop']).then(
        () => undefined,
        () => undefined,
      ),
  }
}

/** A port of loopback that nobody listens on just now. */
export function freePort(): Promise<number> {
  return new Promise((resolve, reject) => {
    const probe = createServer()
    probe.on('error', reject)
    probe.listen(0, '127.0.0.1', () => {
      const address = probe.address()
      probe.close(() => resolve(typeof address === 'object' && address ? address.port : 0))
    })
  })
}

/** @throws StartError when another program listens there */
export function requireFreePort(port: number): Promise<void> {
  return new Promise((resolve, reject) => {
    const probe = createServer()
    probe.on('error', () =>
      reject(new StartError(`Port ${port} is taken by another program. Choose one with PORT=4320 bin/start`)),
    )
    probe.listen(port, '127.0.0.1', () => probe.close(() => resolve()))
  })
}

/** @throws StartError when nothing can be written there */
export function requireWritableFolder(folder: string) {
  try {
    mkdirSync(folder, { recursive: true })
    writeFileSync(path.join(folder, '.writable'), '')
  } catch {
    throw new StartError(`The data folder ${folder} cannot be written. TENDER_LASSO_DATA names another.`)
  }
}
