import type { Page } from '@playwright/test'

/** What an artist has done in the workspace: presses of the pointer and keys, and those that only go about. */
export interface Acts {
  /** Clicks, drags, strokes and keys. */
  work: number
  /** Arrow keys from frame to frame and F to see all. */
  goingAbout: number
}

/** Counts what the page gets, whoever sends it; to be called before the page is opened. Wheel and pointer moves are no acts. */
export async function countActs(page: Page): Promise<() => Promise<Acts>> {
  await page.addInitScript(() => {
    const acts = { work: 0, goingAbout: 0 }
    Object.assign(window, { countedActs: acts })
    addEventListener('pointerdown', () => acts.work++, true)
    addEventListener(
      'keydown',
      (event) => {
        if (event.repeat || ['Shift', 'Alt', 'Control'].includes(event.key)) return
        if (event.key === 'f' || event.key.startsWith('Arrow')) acts.goingAbout++
        else acts.work++
      },
      true,
    )
  })
  return () => page.evaluate(() => (window as unknown as { countedActs: Acts }).countedActs)
}
