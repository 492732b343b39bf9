const ENOUGH = 1e-7
const MOST_ROUNDS = 8
const STEP = 1e-5
const LEAST_DETERMINANT = 1e-3

/**
 * Two numbers that bring a place to a target: Newton's method in two unknowns, slopes by differences, from a guess nearby.
 *
 * Where the place cannot go to both sides (its slopes are parallel) the numbers stay at the best that was reached.
 *
 * @param guess    radians or logarithms: numbers of about one
 * @param placeAt  where the place is for two numbers, pixels
 */
export function solvedInTwoUnknowns(
  guess: readonly [number, number],
  target: readonly [number, number],
  placeAt: (a: number, b: number) => readonly [number, number],
): [number, number] {
  let [a, b] = guess
  for (let round = 0; round < MOST_ROUNDS; round++) {
    const now = placeAt(a, b)
    const [ox, oy] = [target[0] - now[0], target[1] - now[1]]
    if (Math.hypot(ox, oy) < ENOUGH) break
    const [pa, pb] = [placeAt(a + STEP, b), placeAt(a, b + STEP)]
    const [ax, ay] = [(pa[0] - now[0]) / STEP, (pa[1] - now[1]) / STEP]
    const [bx, by] = [(pb[0] - now[0]) / STEP, (pb[1] - now[1]) / STEP]
    const determinant = ax * by - ay * bx
    if (Math.abs(determinant) < LEAST_DETERMINANT) break
    a += (ox * by - oy * bx) / determinant
    b += (ax * oy - ay * ox) / determinant
  }
  return [a, b]
}
