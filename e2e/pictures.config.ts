import { defineConfig } from '@playwright/test'
import tests from './playwright.config'

const { launchOptions, ...use } = tests.use!

/** Makes the pictures of docs/screenshots anew, from the demonstration and on an application of its own. */
export default defineConfig({
  ...tests,
  testMatch: 'pictures/views.ts',
  workers: 1,
  timeout: 90_000,
  use: {
    ...use,
    // Letters stand where the font has them, as on an artist's screen, not on whole pixels.
    launchOptions: { ...launchOptions, args: [...launchOptions!.args!, '--font-render-hinting=none'] },
  },
})
