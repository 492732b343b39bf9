import { expect, it } from 'vitest'
import { holdBackground, isBackgroundHeld } from './background'

it('what only fills memory rests until each work has ended, well or not', async () => {
  expect(isBackgroundHeld()).toBe(false)
  let end = () => {}
  holdBackground(new Promise<void>((resolve) => (end = resolve)))
  holdBackground(Promise.reject(new Error('a helper ended')))
  await new Promise((resolve) => setTimeout(resolve))
  expect(isBackgroundHeld()).toBe(true)
  end()
  await new Promise((resolve) => setTimeout(resolve))
  expect(isBackgroundHeld()).toBe(false)
})
