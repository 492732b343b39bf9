import { depthOn } from '@tender-lasso/core/evaluation'
import { findObject, seamsOf, type Seam, type Shape } from '@tender-lasso/core/document'
import { seamBroken, seamsBroken, seamTied, stretchOf } from '@tender-lasso/core/edits'
import { say, selectedShapes, useShot } from '../store'
import { edit } from '../session'

const get = useShot.getState

/**
 * The selected stretches of two shapes become one line: that of the shape that has more points along it, so that nothing drawn
 * is lost, or else of the nearer. The other one takes it over.
 */
export function tieSelected() {
  const { document, selection, frame } = get()
  const stretches = selectedShapes().flatMap((shape) => {
    const ids = stretchOf(shape, selection.pointIds)
    return ids ? [{ shape, ids }] : []
  })
  if (stretches.length !== 2) {
    return say('doubtful', 'Select a stretch of points on each of two shapes, each unbroken, to tie them')
  }
  const ranked = stretches.sort((a, b) => b.ids.length - a.ids.length || depthOf(a.shape) - depthOf(b.shape))
  const [owner, borrower] = ranked as [Stretch, Stretch]
  const { patches } = seamTied(document, owner.shape, owner.ids, borrower.shape, borrower.ids, frame)
  if (edit(`tie ${borrower.shape.name} to ${owner.shape.name}`, patches)) {
    say('said', `${nameOf(borrower.shape)} takes its line from ${nameOf(owner.shape)}; an edit of either moves both`)
  }
}

type Stretch = { shape: Shape; ids: string[] }

function depthOf(shape: Shape): number {
  const { document, frame } = get()
  const part = findObject(document, 'part', shape.partId)
  return part ? depthOn(part, frame) : 0
}

/** "coat, outline": shapes of different Parts often have the same name. */
export function nameOf(shape: Shape): string {
  const part = findObject(get().document, 'part', shape.partId)
  return part ? `${part.name}, ${shape.name}` : shape.name
}

export function breakSeam(seam: Seam) {
  edit('break a Seam', seamBroken(get().document, seam))
}

/** All Seams of what is selected let go. */
export function breakSeams() {
  const { document } = get()
  const seams = [...new Set(selectedShapes().flatMap(({ id }) => seamsOf(document, id)))]
  if (seams.length === 0) return say('said', 'What is selected is tied to nothing')
  edit(seams.length === 1 ? 'break a Seam' : `break ${seams.length} Seams`, seamsBroken(document, seams))
}
