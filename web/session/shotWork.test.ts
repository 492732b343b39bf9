import { expect, it } from 'vitest'
import { endShotWork, endWithShot, whileOpen } from './shotWork'

it('tells that a shot is open until it closes, and has its work end then, once', () => {
  const isOpen = whileOpen()
  const ended: [string, boolean][] = []
  endWithShot(() => ended.push(['tracks', isOpen()]))
  endWithShot(() => ended.push(['softness', isOpen()]))()
  expect(isOpen()).toBe(true)
  endShotWork()
  // It can still be edited as its work ends.
  expect(ended).toEqual([['tracks', true]])
  expect(isOpen()).toBe(false)
  expect(whileOpen()()).toBe(true)
  endShotWork()
  expect(ended).toHaveLength(1)
})
