import { defineConfig } from '@playwright/test'
import tests from './playwright.config'

/** Makes the pictures of docs/screenshots anew, from the demonstration and on an application of its own. */
export default defineConfig({ ...tests, testMatch: 'pictures/views.ts', workers: 1, timeout: 90_000 })
