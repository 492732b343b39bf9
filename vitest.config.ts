import { defineConfig } from 'vitest/config'

const exclude = ['**/node_modules/**', '**/.next/**']
const patience = { testTimeout: 60_000, hookTimeout: 120_000 }

export default defineConfig({
  test: {
    pool: 'forks',
    // One more than cores: some wait for leases, disks and other processes.
    maxWorkers: 3,
    projects: [
      {
        test: {
          ...patience,
          name: 'computation',
          include: ['{core,formats,demo}/**/*.test.ts'],
          exclude,
          // Pure functions: what one file has read another can use.
          isolate: false,
        },
      },
      {
        test: {
          ...patience,
          name: 'server',
          include: ['{server,worker,bench,bin,web/api}/**/*.test.ts'],
          exclude,
          globalSetup: ['bin/vitestDatabase.ts'],
          env: { TENDER_LASSO_LOG: 'silent' },
          // What files share is the database, which each closes; to read the server anew for each takes a fifth of their time.
          isolate: false,
        },
      },
      {
        test: {
          ...patience,
          name: 'interface',
          include: ['web/**/*.test.ts'],
          exclude: [...exclude, 'web/api/**'],
        },
      },
    ],
  },
})
