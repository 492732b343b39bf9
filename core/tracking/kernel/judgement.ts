import { correlation } from '../correlation'
import { LEAST_SEEN, NOTHING_AGREES, type Judgement } from './alignmentKernel'

/**
 * From eight sums over the samples: how many count, how many agree, squares of the residuals of these, and of those
 * that count the sums of T, I, T^2, I^2 and T I.
 *
 * @param samples  of the whole template
 */
export function judgementOf(samples: number, sums: ArrayLike<number>): Judgement {
  const count = sums[0]!
  const agreeing = sums[1]!
  if (count < LEAST_SEEN || agreeing === 0) return NOTHING_AGREES
  const match = correlation(count, sums[3]!, sums[4]!, sums[5]!, sums[6]!, sums[7]!)
  return { match: Math.max(0, match), kept: agreeing / samples, residual: Math.sqrt(sums[2]! / agreeing) }
}
