import { jointWidened, withPatchesApplied, type Patch } from '@tender-lasso/core/document'
import { boundsOf } from '@tender-lasso/core/geometry'
import { halfWidthAcross } from '@tender-lasso/core/image'
import { wordsOf } from '../session/api'
import { endsOf } from '../viewer/tools/widthsTool'
import { AnalysisTiles } from './analysisTiles'
import { edit, say, useShot } from './shotStore'

/** Widths of the figure's joints taken from the plate's edges, where these are clear; one edit. */
export async function takeWidthsFromPlate(): Promise<void> {
  const state = useShot.getState()
  const { info, document, frame } = state
  const ends = endsOf(state)
  if (!info || ends.length === 0) return say('doubtful', 'Select a Part of a figure that was rigged by its joints')
  try {
    const tiles = new AnalysisTiles(info.id, info.width, info.height)
    const patches: Patch[] = []
    // Each joint on what the ones before it have left: a bone has two.
    let working = document
    const done = new Set<string>()
    const joints = new Set(ends.map(({ joint }) => nameOf(joint)))
    for (const { joint, left, right, half } of ends) {
      // Two bones that meet say the same joint twice: the first that is clear counts.
      if (done.has(nameOf(joint)) || half < 1) continue
      const box = boundsOf([...left, ...right])
      const room = 2 * half + 8
      const around = { left: Math.floor(box.left - room), top: Math.floor(box.top - room), right: Math.ceil(box.right + room), bottom: Math.ceil(box.bottom + room) } // prettier-ignore
      const image = await tiles.image(frame, around)
      const across = [(left[0] - right[0]) / (2 * half), (left[1] - right[1]) / (2 * half)] as const
      const found = halfWidthAcross(image, joint, across, half)
      if (found === null) continue
      done.add(nameOf(joint))
      const own = jointWidened(working, endsOf({ ...state, document: working }), joint, frame, found)
      working = withPatchesApplied(working, own)
      patches.push(...own)
    }
    if (useShot.getState().document !== document)
      return say('doubtful', 'The figure was changed meanwhile: press Enter again')
    if (done.size === 0) return say('doubtful', 'No clear edge at any joint: drag the widths')
    const words = `widths at ${done.size} of ${joints.size} joints taken from the plate`
    if (edit(words, patches)) say('said', `${words}; drag the others`)
  } catch (error) {
    say('bad', `The plate could not be read: ${wordsOf(error)}`)
  }
}

const nameOf = ([x, y]: readonly [number, number]) => `${Math.round(x / 3)} ${Math.round(y / 3)}`
