import { correlation } from '../correlation'
import { LEAST_SEEN, NOTHING_AGREES, type Judgement } from './alignmentKernel'

/**
 * From eight sums over the samples: how many count, how many agree, squares of the residuals of these, and of those
 * that count the sums of T, I, T^2, I^2 and T I.
 *
 * @param samples  of the whole template
 * @param at       index of the first sum
 */
export function judgementOf(samples: number, sums: ArrayLike<number>, at = 0): Judgement {
  const count = sums[at]!
  const agreeing = sums[at + 1]!
  if (count < LEAST_SEEN || agreeing === 0) return NOTHING_AGREES
  const match = correlation(count, sums[at + 3]!, sums[at + 4]!, sums[at + 5]!, sums[at + 6]!, sums[at + 7]!)
  return { match: Math.max(0, match), kept: agreeing / samples, residual: Math.sqrt(sums[at + 2]! / agreeing) }
}
