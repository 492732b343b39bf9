import { allOf } from '@tender-lasso/core/document'
import { distinctNames } from '@tender-lasso/core/handoff'
import type { WrittenOutlines } from '@tender-lasso/formats/outlines'
import { partColour, say, shotRange, useShot, type Rgb } from '../store'
import { wordsOf } from '../session'
import type { OutlinesRequest, OutlinesWorker } from '../workers/outlines.worker'
import { watchedWorker } from '../workers/watchedWorker'
import { putOnClipboard, saveAsFile } from './textOut'

const hexOf = (colour: Rgb) => `#${colour.map((value) => value.toString(16).padStart(2, '0')).join('')}`

type Form = OutlinesRequest['form']

const FORMS: Record<Form, { words: string; ending: string; type: string }> = {
  svg: { words: 'SVG', ending: 'svg', type: 'image/svg+xml' },
  lottie: { words: 'Lottie', ending: 'json', type: 'application/json' },
  json: { words: 'JSON of each frame', ending: 'outlines.json', type: 'application/json' },
}

/** Outlines of the selected Part or of all that are seen, on this frame or over the shot. Null where it went wrong, which is said. */
async function outlinesOf(form: Form, which: 'frame' | 'shot'): Promise<(WrittenOutlines & { name: string }) | null> {
  const { info, document, selection, frame } = useShot.getState()
  if (!info) return null
  const parts = allOf(document, 'part').filter(({ id }) => !selection.partId || id === selection.partId)
  const names = distinctNames(parts.map(({ name }) => name), 'part') // prettier-ignore
  const [first, last] = which === 'frame' ? [frame, frame] : shotRange()
  const worker = new Worker(new URL('../workers/outlines.worker.ts', import.meta.url), { type: 'module' })
  const watched = watchedWorker<OutlinesWorker>(worker, 'The helper that writes outlines')
  try {
    const written = await watched.remote.write({
      form,
      title: info.name,
      width: info.width,
      height: info.height,
      pixelAspect: info.pixelAspect,
      rate: info.rate,
      objects: [...document.objects.values()],
      parts: Object.fromEntries(parts.map((part, i) => [part.id, { name: names[i]!, colour: hexOf(partColour(document, part)) }])), // prettier-ignore
      frames: Array.from({ length: last - first + 1 }, (_, i) => first + i),
    })
    return {
      ...written,
      name: `${info.name}${first === last ? `.${first}` : `_${first}-${last}`}.${FORMS[form].ending}`,
    }
  } catch (error) {
    say('bad', wordsOf(error))
    return null
  } finally {
    watched.close()
  }
}

/** How near the written outlines are to ours, and what is not in them. */
function sayLoss({ deviation, lost }: WrittenOutlines, form: Form) {
  const words = `Outlines are within ${deviation.toFixed(3)} px of ours`
  say(
    lost.length > 0 ? 'doubtful' : 'said',
    lost.length > 0 ? `${words}; without ${lost.join(', ')}: ${FORMS[form].words} has none` : words,
  )
}

export async function saveOutlines(form: Form, which: 'frame' | 'shot') {
  const written = await outlinesOf(form, which)
  if (!written) return
  saveAsFile(written.text, written.name, FORMS[form].type)
  sayLoss(written, form)
}

export async function copySvg() {
  const written = await outlinesOf('svg', 'frame')
  if (written) await putOnClipboard(written.text, written.name)
}
