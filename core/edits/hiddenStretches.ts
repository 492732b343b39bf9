import { sameValue, type Part, type Patch, type Shape } from '../document'
import { fieldSet } from './objects'

/** First and last frame. */
type Stretch = readonly [number, number]

/** Whether all of a stretch is hidden. */
export const isHiddenOver = ({ hidden }: Part | Shape, [first, last]: Stretch): boolean =>
  hidden.some(([from, to]) => from <= first && to >= last)

/** Hides Parts or shapes on a stretch of frames: what they are goes on, their mattes are empty. */
export const hiddenOver = (objects: readonly (Part | Shape)[], stretch: Stretch): Patch[] =>
  changed(objects, stretch, (rest) => [...rest, [...stretch]])

/** Takes a stretch out of what is hidden. */
export const shownOver = (objects: readonly (Part | Shape)[], stretch: Stretch): Patch[] =>
  changed(objects, stretch, (rest) => rest)

function changed(
  objects: readonly (Part | Shape)[],
  stretch: Stretch,
  joined: (rest: [number, number][]) => [number, number][],
): Patch[] {
  return objects.flatMap((object) => {
    const after = united(joined(without(object.hidden, stretch)))
    return sameValue(object.hidden, after) ? [] : [fieldSet(object, 'hidden', after)]
  })
}

const without = (hidden: readonly Stretch[], [first, last]: Stretch): [number, number][] =>
  hidden.flatMap(([from, to]) =>
    [[from, Math.min(to, first - 1)] as [number, number], [Math.max(from, last + 1), to] as [number, number]].filter(
      ([a, b]) => a <= b,
    ),
  )

/** In order, those that touch as one. */
function united(stretches: readonly Stretch[]): [number, number][] {
  const out: [number, number][] = []
  for (const [from, to] of stretches.toSorted(([a], [b]) => a - b)) {
    const last = out.at(-1)
    if (last && from <= last[1] + 1) last[1] = Math.max(last[1], to)
    else out.push([from, to])
  }
  return out
}
