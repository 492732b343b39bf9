import { readFileSync } from 'node:fs'
import path from 'node:path'
import { allOf, type RotoDocument } from '@tender-lasso/core/document'
import { sceneAt } from '@tender-lasso/core/evaluation'
import { matteError, type MatteError } from '@tender-lasso/core/proof'
import { renderMattes } from '@tender-lasso/core/raster'
import { DEMO_FOLDER } from './artist'
import { greyPng, meanError } from './mattes'

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
    const { width, height, expected, counts } = await seenFigure(frame)
    const box = { left: 0, top: 0, right: width, bottom: height }
    const mattes = renderMattes(sceneAt(document, frame), wanted, { box, motionBlur: true })!
    errors.push(matteError({ width, height, data: together(mattes, counts) }, { width, height, data: expected }))
  }
  return meanError(errors)
}

/** The same of mattes that were handed off, one list a frame. */
export async function deliveredError(mattesOf: ReadonlyMap<number, readonly ArrayLike<number>[]>): Promise<MatteError> {
  const errors: MatteError[] = []
  for (const [frame, mattes] of mattesOf) {
    const { width, height, expected, counts } = await seenFigure(frame)
    errors.push(matteError({ width, height, data: together(mattes, counts) }, { width, height, data: expected }))
  }
  return meanError(errors)
}

/** Visible mattes of neighbours add up. */
function together(mattes: readonly ArrayLike<number>[], counts: Float32Array): Float32Array {
  return counts.map(
    (count, i) =>
      count *
      Math.min(
        1,
        mattes.reduce((sum, alpha) => sum + alpha[i]!, 0),
      ),
  )
}

/** The truth of a frame: what is seen of the figure, and 1 where it is judged. */
async function seenFigure(frame: number) {
  const alphaOf = (id: string) => greyPng(readFileSync(path.join(DEMO_FOLDER, 'truth', 'alpha', id, `${frame}.png`)))
  const pieces = await Promise.all(FIGURE.map(alphaOf))
  const before = await Promise.all(BEFORE_IT.map(alphaOf))
  const post = await alphaOf(POST)
  const counts = post.data.map((_, i) => (before.every(({ data }) => data[i] === 0) ? 1 : 0))
  const expected = post.data.map((hidden, i) => counts[i]! * (1 - hidden) * Math.max(...pieces.map(({ data }) => data[i]!))) // prettier-ignore
  return { width: post.width, height: post.height, expected, counts }
}
