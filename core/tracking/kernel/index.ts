import type { AlignmentKernel } from './alignmentKernel'
import { PlainKernel } from './plainKernel'
import { SimdKernel } from './simdKernel'

export * from './alignmentKernel'
export { tukeyWeight } from './plainKernel'
export type { ShiftSamples, ShiftWindow } from './shiftCorrelation'

let shared: AlignmentKernel | null = null

/** The fastest kernel that runs here; one for all trackers of a thread, since each loads what it works on. */
export function alignmentKernel(): AlignmentKernel {
  shared ??= SimdKernel.create() ?? new PlainKernel()
  return shared
}
