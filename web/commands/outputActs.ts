import { findObject, newId, NEW_OUTPUT_FIELDS, type Output } from '@tender-lasso/core/document'
import { freeName, objectAdded, objectsDeleted, outputNames, outputSet, outputsInOrder } from '@tender-lasso/core/edits'
import { say, useShot } from '../store'
import { api, edit, jobsChanged, whileOpen, wordsOf } from '../session'
import { counted } from '../words/counted'

const get = useShot.getState

/** The output whose settings are shown: the chosen one, or the first. */
export function shownOutput({ document, outputId } = get()): Output | undefined {
  return (outputId && findObject(document, 'output', outputId)) || outputsInOrder(document)[0]
}

/** A new output: of the selected Part where there is one, else of everything. */
export function addOutput() {
  const { document, selection } = get()
  const part = selection.partId ? findObject(document, 'part', selection.partId) : undefined
  const last = outputsInOrder(document).at(-1)
  const output: Output = {
    ...NEW_OUTPUT_FIELDS,
    id: newId(),
    name: freeName(part?.name ?? 'Output', outputNames(document)),
    order: last ? last.order + 1 : 0,
    ...(part && { holds: { what: 'parts', partIds: [part.id] } }),
  }
  if (edit(`new output ${output.name}`, [objectAdded(output)])) useShot.setState({ outputId: output.id })
}

export function duplicateOutput(output: Output) {
  const { document } = get()
  const copy = { ...output, id: newId(), name: freeName(output.name, outputNames(document)), order: output.order + 0.5 }
  if (edit(`copy the output ${output.name}`, [objectAdded(copy)])) useShot.setState({ outputId: copy.id })
}

export function deleteOutput(output: Output) {
  edit(`delete the output ${output.name}`, objectsDeleted(get().document, [output.id]))
}

export function changeOutput(output: Output, change: Partial<Output>, words: string) {
  edit(`${output.name}: ${words}`, [outputSet(output, change)])
}

/** Edits that wait are given this long to be stored before a delivery is made of what is there. */
const PATIENCE_MS = 8000

/** Writes outputs as the shot is now, edits of a moment ago among them. */
export async function writeOutputs(outputs: readonly Output[]) {
  const { info } = get()
  if (!info || outputs.length === 0) return
  const isOpen = whileOpen()
  if (!(await allIsSaved(isOpen))) {
    const words = isOpen()
      ? 'Edits are not stored yet, so nothing is written: try again when the header says that all is saved'
      : `${info.name} was left before its edits were stored, so nothing of it is written`
    return say('bad', words)
  }
  let asked = 0
  for (const output of outputs) {
    try {
      await api(`/api/shots/${info.id}/deliveries`, { body: JSON.stringify({ outputId: output.id }) })
      asked++
    } catch (error) {
      say('bad', `${output.name}: ${wordsOf(error)}`)
    }
  }
  jobsChanged()
  if (asked > 0) say('said', asked === 1 && outputs.length === 1 ? `Writing ${outputs[0]!.name}` : `Writing ${counted(asked, 'output')}`) // prettier-ignore
}

async function allIsSaved(isOpen: () => boolean): Promise<boolean> {
  for (const until = Date.now() + PATIENCE_MS; Date.now() < until && isOpen();) {
    if (get().saveState === 'saved') return true
    await new Promise((resolve) => setTimeout(resolve, 100))
  }
  return false
}
