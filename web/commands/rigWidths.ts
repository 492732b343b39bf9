import { jointWidened, type JointEnd } from '@tender-lasso/core/edits'
import { withPatchesApplied, type Patch } from '@tender-lasso/core/document'
import { boundsOf } from '@tender-lasso/core/geometry'
import { halfWidthAcross } from '@tender-lasso/core/image'
import { wordsOf, edit, whileOpen } from '../session'
import { jointEndsOf } from '../selection'
import { AnalysisTiles } from '../media'
import { say, useShot } from '../store'

/** Widths of the figure's joints taken from the plate's edges, where these are clear; one edit. */
export async function takeWidthsFromPlate(): Promise<void> {
  const state = useShot.getState()
  const { info, frame } = state
  const ends = jointEndsOf(state)
  if (!info || ends.length === 0) return say('doubtful', 'Select a Part of a figure that was rigged by its joints')
  const isOpen = whileOpen()
  try {
    const found = await widthsOnPlate(new AnalysisTiles(info.id, info.width, info.height), ends, frame)
    if (!isOpen()) return
    const joints = new Set(ends.map(({ joint }) => nameOf(joint))).size
    if (found.size === 0) return say('doubtful', 'No clear edge at any joint: drag the widths')
    const { patches, count } = widenedNow(found, frame)
    if (count === 0) return say('doubtful', 'The figure was changed meanwhile: press Enter again')
    const words = `widths at ${count} of ${joints} joints taken from the plate`
    if (edit(words, patches)) say('said', `${words}; drag the others`)
  } catch (error) {
    say('bad', `The plate could not be read: ${wordsOf(error)}`)
  }
}

/** Half widths between clear edges of the plate as they are seen, square pixels, by the name of their joint. */
async function widthsOnPlate(tiles: AnalysisTiles, ends: readonly JointEnd[], frame: number) {
  const found = new Map<string, number>()
  for (const { joint, left, right, half } of ends) {
    // Two bones that meet say the same joint twice: the first that is clear counts.
    if (found.has(nameOf(joint)) || half < 1) continue
    const box = boundsOf([...left, ...right])
    const room = 2 * half + 8
    const onPlate = Math.hypot(left[0] - right[0], left[1] - right[1]) / 2
    const around = { left: Math.floor(box.left - room), top: Math.floor(box.top - room), right: Math.ceil(box.right + room), bottom: Math.ceil(box.bottom + room) } // prettier-ignore
    const image = await tiles.image(frame, around)
    const across = [(left[0] - right[0]) / (2 * onPlate), (left[1] - right[1]) / (2 * onPlate)] as const
    const width = halfWidthAcross(image, joint, across, onPlate)
    if (width !== null) found.set(nameOf(joint), (width * half) / onPlate)
  }
  return found
}

/** Patches for the figure as it is by now: joints that were moved or deleted while the plate was read are left alone. */
function widenedNow(found: ReadonlyMap<string, number>, frame: number): { patches: Patch[]; count: number } {
  const state = useShot.getState()
  const patches: Patch[] = []
  // Each joint on what the ones before it have left: a bone has two.
  let working = state.document
  let count = 0
  const done = new Set<string>()
  for (const { joint } of jointEndsOf(state)) {
    const half = found.get(nameOf(joint))
    if (half === undefined || done.has(nameOf(joint))) continue
    done.add(nameOf(joint))
    const own = jointWidened(working, jointEndsOf({ ...state, document: working }), joint, frame, half)
    working = withPatchesApplied(working, own)
    patches.push(...own)
    count++
  }
  return { patches, count }
}

const nameOf = ([x, y]: readonly [number, number]) => `${Math.round(x / 3)} ${Math.round(y / 3)}`
