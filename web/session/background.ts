import { isArtistActing } from './artistActing'

let held = 0

/** What only fills memory rests until some work has ended, well or not. */
export function holdBackground(work: Promise<unknown>): void {
  held++
  void work.catch(() => undefined).finally(() => held--)
}

/** Whether something needs the machine more than what only fills memory. */
export const isBackgroundHeld = () => held > 0 || isArtistActing()
