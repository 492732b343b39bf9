import { test as base } from '@playwright/test'

export { expect, type Locator, type Page } from '@playwright/test'

/** A test of the application: it fails when a page throws what nobody catches, whatever else it looks at. */
export const test = base.extend<{ noPageErrors: void }>({
  noPageErrors: [
    async ({ context }, use) => {
      const errors: Error[] = []
      context.on('weberror', (thrown) => errors.push(thrown.error()))
      await use()
      if (errors.length > 0) throw new Error(`Thrown in the page: ${errors.map((error) => error.stack ?? error.message).join('\n')}`) // prettier-ignore
    },
    { auto: true },
  ],
})
