import { findObject } from '@tender-lasso/core/document'
import { shotTaken } from '@tender-lasso/core/edits'
import { objectsOfParts } from '@tender-lasso/core/handoff'
import { readShotData, shotDataText } from '@tender-lasso/formats/shotData'
import { say, useShot } from '../store'
import { edit, wordsOf } from '../session'
import { takeFromClipboard } from './textIn'
import { putOnClipboard, saveAsFile } from './textOut'
import { counted } from '../words/counted'

/** What is written: the selected Part with what it needs, or the whole shot. */
function shotData(): { text: string; what: string } | null {
  const { info, document, selection } = useShot.getState()
  if (!info) return null
  const part = selection.partId ? findObject(document, 'part', selection.partId) : undefined
  const objects = part ? objectsOfParts(document, [part.id]) : [...document.objects.values()]
  const what = part ? `${info.name} ${part.name}` : info.name
  return { text: shotDataText({ name: what, whole: !part, objects }), what }
}

export function saveShotData() {
  const data = shotData()
  if (data) saveAsFile(data.text, `${data.what}.json`, 'application/json')
}

export async function copyShotData() {
  const data = shotData()
  if (data) await putOnClipboard(data.text, data.what)
}

/** Shot data laid into the open shot, as one edit. */
export function takeShotData(text: string) {
  const { document } = useShot.getState()
  try {
    const { name, objects } = readShotData(text)
    const taken = shotTaken(document, objects)
    if (typeof taken === 'string') return say('doubtful', `${name} cannot be read into this shot: ${taken}`)
    if (!edit(`read ${name}`, taken.patches)) return
    say('said', `${counted(taken.parts, 'Part')} read from ${name}`)
  } catch (error) {
    say('doubtful', wordsOf(error))
  }
}

export const pasteShotData = () => takeFromClipboard(takeShotData)
