import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    include: ['{core,formats,server,worker,demo,web,bench,bin}/**/*.test.ts'],
    exclude: ['**/node_modules/**', '**/.next/**'],
    testTimeout: 60_000,
    hookTimeout: 120_000,
    globalSetup: ['bin/vitestDatabase.ts'],
    env: { TENDER_LASSO_LOG: 'silent' },
    pool: 'forks',
    maxWorkers: 2,
  },
})
