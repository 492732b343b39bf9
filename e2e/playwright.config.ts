import path from 'node:path'
import { defineConfig } from '@playwright/test'

/** Files of tests run side by side, each on an application of its own. E2E_WORKERS=1 is enough for one file. */
const WORKERS = Number(process.env.E2E_WORKERS ?? 2)

/** Which of the applications this process tests: the runner numbers its workers. */
const own = Number(process.env.TEST_PARALLEL_INDEX ?? 0)
const portOf = (index: number) => 4391 + 4 * index
export const dataFolderOf = (index: number) =>
  path.resolve(import.meta.dirname, '..', '.test-data', index === 0 ? 'e2e' : `e2e-${index}`)

export const PORT = portOf(own)
export const DATA_FOLDER = dataFolderOf(own)

export default defineConfig({
  testDir: '.',
  testMatch: '*.spec.ts',
  outputDir: '../test-results',
  fullyParallel: false,
  workers: WORKERS,
  timeout: 900_000,
  expect: { timeout: 15_000 },
  reporter: [['list']],
  use: {
    baseURL: `http://127.0.0.1:${PORT}`,
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
    launchOptions: {
      executablePath: '/usr/bin/chromium-headless-shell',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
  webServer: Array.from({ length: WORKERS }, (_, index) => ({
    command: `node --import tsx e2e/startServer.ts ${index} ${portOf(index)}`,
    cwd: path.resolve(import.meta.dirname, '..'),
    url: `http://127.0.0.1:${portOf(index)}/api/health`,
    timeout: 600_000,
    gracefulShutdown: { signal: 'SIGTERM' as const, timeout: 20_000 },
    stdout: 'ignore' as const,
    stderr: 'pipe' as const,
  })),
})
