import { allOf } from '@tender-lasso/core/document'
import { distinctNames } from '@tender-lasso/core/handoff'
import type { WrittenSvg } from '@tender-lasso/formats/svg'
import { partColour, say, shotRange, useShot, type Rgb } from '../store'
import { wordsOf } from '../session'
import type { SvgWorker } from '../workers/svg.worker'
import { watchedWorker } from '../workers/watchedWorker'
import { putOnClipboard, saveAsFile } from './textOut'

const hexOf = (colour: Rgb) => `#${colour.map((value) => value.toString(16).padStart(2, '0')).join('')}`

/** Outlines as SVG: of the selected Part or of all that are seen, on this frame or over the shot. Null where it went wrong, which is said. */
async function svgOf(which: 'frame' | 'shot'): Promise<(WrittenSvg & { name: string }) | null> {
  const { info, document, selection, frame } = useShot.getState()
  if (!info) return null
  const parts = allOf(document, 'part').filter(({ id }) => !selection.partId || id === selection.partId)
  const names = distinctNames(parts.map(({ name }) => name), 'part') // prettier-ignore
  const [first, last] = which === 'frame' ? [frame, frame] : shotRange()
  const worker = new Worker(new URL('../workers/svg.worker.ts', import.meta.url), { type: 'module' })
  const watched = watchedWorker<SvgWorker>(worker, 'The helper that writes SVG')
  try {
    const written = await watched.remote.write({
      title: info.name,
      width: info.width,
      height: info.height,
      pixelAspect: info.pixelAspect,
      rate: info.rate,
      objects: [...document.objects.values()],
      parts: Object.fromEntries(parts.map((part, i) => [part.id, { name: names[i]!, colour: hexOf(partColour(document, part)) }])), // prettier-ignore
      frames: Array.from({ length: last - first + 1 }, (_, i) => first + i),
    })
    return { ...written, name: `${info.name}${first === last ? `.${first}` : `_${first}-${last}`}.svg` }
  } catch (error) {
    say('bad', wordsOf(error))
    return null
  } finally {
    watched.close()
  }
}

/** How near the written outlines are to ours, and what is not in them. */
function sayLoss({ deviation, lost }: WrittenSvg) {
  const words = `Outlines are within ${deviation.toFixed(3)} px of ours`
  say(
    lost.length > 0 ? 'doubtful' : 'said',
    lost.length > 0 ? `${words}; without ${lost.join(', ')}: SVG has none` : words,
  )
}

export async function saveSvg(which: 'frame' | 'shot') {
  const written = await svgOf(which)
  if (!written) return
  saveAsFile(written.text, written.name, 'image/svg+xml')
  sayLoss(written)
}

export async function copySvg() {
  const written = await svgOf('frame')
  if (written) await putOnClipboard(written.text, written.name)
}
