import { expect, it } from 'vitest'
import { toldMeanwhile } from './toldMeanwhile'

it.each([
  ['ends', () => Promise.resolve('done'), { status: 'fulfilled', value: 'done' }],
  ['fails', () => Promise.reject(new Error('the helper ended')), { status: 'rejected' }],
])('news are passed on until work %s, and none that come later', async (_, end, outcome) => {
  const news: number[] = []
  let late = (_: number) => {}
  const work = toldMeanwhile(
    (one: number) => news.push(one),
    (tell) => {
      tell(1)
      late = tell
      return new Promise((resolve) => setTimeout(resolve)).then(() => (tell(2), end()))
    },
  )
  expect((await Promise.allSettled([work]))[0]).toMatchObject(outcome)
  late(3)
  expect(news).toEqual([1, 2])
})
