import type { ScenePart } from '@tender-lasso/core/raster'

/** What of a Part's edges plain outlines cannot hold, in words. */
export function softnessOf({ groups, finish }: ScenePart): string[] {
  const found: string[] = []
  for (const { edge, wideOutlinesAt, focus, focusedOutlines } of groups) {
    if (edge.innerFeather > 0 || edge.outerFeather > 0 || wideOutlinesAt) found.push('feather')
    if (edge.grow !== 0) found.push('growth')
    if (focus || focusedOutlines) found.push('focus blur')
  }
  if (finish && finish.blur > 0) found.push('blur of the matte')
  if (finish && (finish.blackPoint !== 0 || finish.whitePoint !== 1)) found.push('black and white point')
  return found
}
