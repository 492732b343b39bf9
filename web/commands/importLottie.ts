import type { ReadLottie } from '@tender-lasso/formats/lottie'
import { edit, whileOpen, wordsOf } from '../session'
import { say, shotRange, useShot } from '../store'
import { counted } from '../words/counted'

/** What reads Lottie files: few sessions do, and it is large. */
const reader = async () => ({
  ...(await import('@tender-lasso/formats/lottie')),
  ...(await import('./lottieParts')),
})

/** Outlines of a Lottie file as Parts of a new Subject, a Part a layer, its first frame on the shot's first; one edit. One unit is a pixel of the plate. */
export async function importLottie(text: string): Promise<void> {
  const isOpen = whileOpen()
  let read: ReadLottie
  let lottie: Awaited<ReturnType<typeof reader>>
  try {
    lottie = await reader()
    read = lottie.readLottie(text)
  } catch (error) {
    return say('doubtful', wordsOf(error))
  }
  const { info, document, editing } = useShot.getState()
  if (!info || !isOpen()) return
  const [first] = shotRange()
  const patches = lottie.lottiePatches(document, read, first, editing.strokeWidth)
  if (!edit(`read ${read.name}`.slice(0, 200), patches)) return
  const words = `${counted(read.layers.length, 'Part')} read from ${read.name}`
  const rate = info.rate.numerator / info.rate.denominator
  const odd = [
    ...(read.lost.length > 0 ? [`without ${read.lost.join(', ')}`] : []),
    ...(Math.abs(rate - read.framesPerSecond) > 0.01 ? [`frame by frame, though it has ${read.framesPerSecond} a second`] : []), // prettier-ignore
  ]
  say(odd.length > 0 ? 'doubtful' : 'said', [words, ...odd].join('; '))
}
