import { allOf, type RotoDocument } from '@tender-lasso/core/document'
import type { Box } from '@tender-lasso/core/geometry'
import { matteError, type MatteError } from '@tender-lasso/core/proof'
import { coverageOf, filledBox, within, type Coverage } from './coverage'
import { join, meanError, renderedOn, truthOn } from './mattes'

/** Pieces of the walking figure as its truth knows them. */
const FIGURE = ['hat', 'scarf', 'head', 'coat', 'near-arm', 'far-arm', 'near-leg', 'far-leg'] as const
/** What passes before the figure and is no part of it: where it is, the figure is not judged. */
const BEFORE_IT = ['signboard', 'pinwheel'] as const
const POST = 'post'

/** Mean error of a whole figure as it is seen behind the post, all its Parts together, rendered from a document. */
export async function figureError(document: RotoDocument, frames: readonly number[]): Promise<MatteError> {
  const parts = allOf(document, 'part').filter(({ name }) => name !== POST && !(BEFORE_IT as readonly string[]).includes(name)) // prettier-ignore
  const wanted = parts.map(({ id }) => ({ partId: id, withHoldouts: true }))
  const errors: MatteError[] = []
  for (const frame of frames) {
    errors.push(await errorOn(frame, renderedOn(document, frame, wanted, await truthOn(POST, frame))))
  }
  return meanError(errors)
}

/** The same of mattes that were handed off, a list of files for each frame. */
export async function deliveredError(mattesOf: ReadonlyMap<number, readonly Uint8Array[]>): Promise<MatteError> {
  const errors: MatteError[] = []
  for (const [frame, mattes] of mattesOf) errors.push(await errorOn(frame, await Promise.all(mattes.map(coverageOf))))
  return meanError(errors)
}

/** Visible mattes of neighbours add up; of the true pieces the nearest one counts, as far as the post lets it be seen. */
async function errorOn(frame: number, mattes: readonly Coverage[]): Promise<MatteError> {
  const [pieces, before] = await Promise.all([FIGURE, BEFORE_IT].map((ids) => Promise.all(ids.map((id) => truthOn(id, frame))))) as [Coverage[], Coverage[]] // prettier-ignore
  const box = filledBox([...mattes, ...pieces], 1)
  const size = { width: box.right - box.left, height: box.bottom - box.top }
  const together = new Float32Array(size.width * size.height)
  for (const one of mattes) {
    const alpha = within(one, box)
    for (let i = 0; i < alpha.length; i++) together[i]! += alpha[i]!
  }
  const nearest = joined(pieces, box)
  const elsewhere = joined(before, box)
  const hidden = within(await truthOn(POST, frame), box)
  const data = together.map((alpha, i) => (elsewhere[i] === 0 ? Math.min(1, alpha) : 0))
  const expected = nearest.map((alpha, i) => (elsewhere[i] === 0 ? alpha * (1 - hidden[i]!) : 0))
  return matteError({ ...size, data }, { ...size, data: expected })
}

/** Pictures laid over one another within a box. */
function joined(pictures: readonly Coverage[], box: Box): Float32Array {
  const all = new Float32Array((box.right - box.left) * (box.bottom - box.top))
  for (const picture of pictures) join(all, within(picture, box))
  return all
}
