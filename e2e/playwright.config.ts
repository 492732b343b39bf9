import path from 'node:path'
import { defineConfig } from '@playwright/test'

export const PORT = 4391
export const DATA_FOLDER = path.resolve(import.meta.dirname, '..', '.test-data', 'e2e')

export default defineConfig({
  testDir: '.',
  testMatch: '*.spec.ts',
  outputDir: '../test-results',
  fullyParallel: false,
  workers: 1,
  timeout: 300_000,
  expect: { timeout: 15_000 },
  reporter: [['list']],
  use: {
    baseURL: `http://127.0.0.1:${PORT}`,
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
    launchOptions: {
      executablePath: '/usr/bin/chromium',
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
  webServer: {
    command: 'node --import tsx e2e/startServer.ts',
    cwd: path.resolve(import.meta.dirname, '..'),
    url: `http://127.0.0.1:${PORT}/api/health`,
    timeout: 600_000,
    gracefulShutdown: { signal: 'SIGTERM', timeout: 20_000 },
    stdout: 'ignore',
    stderr: 'pipe',
  },
})
