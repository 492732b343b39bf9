import { cornersSet, keysPutDown, keysCarried, keysReversed, pivotOnPlate } from '@tender-lasso/core/edits'
import { findObject, type Shape } from '@tender-lasso/core/document'
import { linearAbout } from '@tender-lasso/core/geometry'
import { chosenShapes, mapPatches, pivotOfChosen, reachableShapes, shapesUnder } from '../selection'
import { pointerPlace, say, select, selectedShapes, useShot, selectedPart } from '../store'
import { editReaching, keyingNow } from './keying'
import { edit } from '../session'

const get = useShot.getState

/** The shape under the one that is selected at the pointer; from the farthest back to the nearest. */
export function selectNextUnder() {
  const { document, selection } = get()
  const under = shapesUnderPointer()
  if (under.length === 0) return
  const now = under.findIndex((shape) => selection.shapeIds.includes(shape.id))
  const next = under[(now + 1) % under.length]!
  select({ partId: next.partId, shapeIds: [next.id], pointIds: new Set(), trackIds: [], keys: [] })
  say('said', `${findObject(document, 'part', next.partId)?.name ?? ''}, ${next.name}: ${((now + 1) % under.length) + 1} of ${under.length} here`) // prettier-ignore
}

/** All shapes under the pointer, near and far. */
export function selectAllUnder() {
  const under = shapesUnderPointer()
  if (under.length === 0) return
  select({ partId: under[0]!.partId, shapeIds: under.map(({ id }) => id), pointIds: new Set(), trackIds: [], keys: [] })
}

/** Shapes under the pointer, nearest first; when there are none it is said. */
function shapesUnderPointer(): Shape[] {
  const { document, frame, view } = get()
  const place = pointerPlace()
  const under = place ? shapesUnder(document, frame, place[0], place[1], view.zoom) : []
  if (under.length === 0) say('said', 'No shape lies under the pointer')
  return under
}

/** All points of the selected shapes, or all shapes. */
export function selectAll() {
  const { document, frame, selection } = get()
  if (selection.shapeIds.length) {
    return select({ pointIds: new Set(selectedShapes().flatMap(({ pointIds }) => pointIds)), keys: [] })
  }
  const shapes = reachableShapes(document, frame, [])
  if (shapes.length) select({ partId: shapes[0]!.partId, shapeIds: shapes.map(({ id }) => id), trackIds: [], keys: [] })
}

/** The selected stretch of points longer or shorter by one at both ends. */
export function growSelection(direction: 1 | -1) {
  const { pointIds } = get().selection
  const next = new Set(pointIds)
  for (const shape of selectedShapes()) {
    const count = shape.pointIds.length
    const neighbours = (i: number) =>
      [i - 1, i + 1].flatMap((n) =>
        shape.isClosed ? [shape.pointIds[(n + count) % count]!] : (shape.pointIds[n] ?? []),
      )
    shape.pointIds.forEach((id, i) => {
      const near = neighbours(i)
      if (direction === 1 && near.some((other) => pointIds.has(other))) next.add(id)
      if (direction === -1 && near.some((other) => !pointIds.has(other))) next.delete(id)
    })
  }
  select({ pointIds: next })
}

/** Selected points corners, or smooth when they all are corners already. */
export function toggleCorners() {
  const { pointIds } = get().selection
  const shapes = selectedShapes().filter((shape) => shape.pointIds.some((id) => pointIds.has(id)))
  if (shapes.length === 0) return say('said', 'Select points to make them corners or smooth')
  const areCorners = shapes.every((shape) => shape.pointIds.every((id, i) => !pointIds.has(id) || shape.corners[i]))
  edit(
    areCorners ? 'make points smooth' : 'make points corners',
    shapes.flatMap((shape) => cornersSet(shape, pointIds, !areCorners)),
  )
}

/** Mirror lines: upright, level, or along the selected Part from its pivot to that of what it carries. */
export type MirrorAxis = 'upright' | 'level' | 'part'

/** What is selected as its mirror image about a line through the pivot, or through its own middle. */
export function mirrorSelected(axis: MirrorAxis) {
  const state = get()
  const { document, frame, selection, editing } = state
  const shapes = chosenShapes({ document, selection })
  if (shapes.length === 0) return say('said', 'Select a shape or points to mirror')
  const line =
    axis === 'part' ? partAxis() : { through: pivotOfChosen(state), angle: axis === 'upright' ? Math.PI / 2 : 0 }
  if (!line?.through) return say('doubtful', 'That Part carries no other: it has no axis to mirror about')
  const [x, y] = line.through
  const [c, s] = [Math.cos(2 * line.angle), Math.sin(2 * line.angle)]
  const map = linearAbout(x, y, c, s, s, -c)
  const context = { document, frame, keying: keyingNow(state), softness: editing.softness }
  editReaching('mirror', mapPatches(context, shapes, selection.pointIds, map))
}

/** The line from the selected Part's pivot to that of the first Part it carries. */
function partAxis() {
  const { document, frame, selection } = get()
  const part = selectedPart({ document, selection })
  const child =
    part && [...document.objects.values()].find((object) => object.kind === 'part' && object.parentId === part.id)
  if (!part || child?.kind !== 'part') return null
  const [a, b] = [pivotOnPlate(document, part, frame), pivotOnPlate(document, child, frame)]
  return { through: a, angle: Math.atan2(b[1] - a[1], b[0] - a[0]) }
}

/** The chosen keys once more behind the last of them. */
export function repeatKeys() {
  const { document, selection } = get()
  if (selection.keys.length < 2) return say('said', 'Choose keys in the timeline to repeat them')
  const times = selection.keys.map(({ time }) => time)
  const [first, last] = [Math.min(...times), Math.max(...times)]
  // The first of the new ones stands as far behind the last as the keys of one round are apart on the mean.
  const step = Math.max(1, Math.round((last - first) / (new Set(times).size - 1)))
  const start = last + step
  const patches = keysPutDown(document, keysCarried(document, selection.keys), start)
  if (edit('repeat keys', patches))
    select({ keys: selection.keys.map((key) => ({ ...key, time: key.time - first + start })) })
}

export function reverseKeys() {
  const { document, selection } = get()
  if (selection.keys.length < 2) return say('said', 'Choose keys in the timeline to reverse them')
  const times = selection.keys.map(({ time }) => time)
  const sum = Math.min(...times) + Math.max(...times)
  if (edit('reverse keys', keysReversed(document, selection.keys))) {
    select({ keys: selection.keys.map((key) => ({ ...key, time: sum - key.time })) })
  }
}
