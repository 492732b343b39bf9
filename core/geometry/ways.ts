/** A way from one place to another: x and y. */
export type Way = readonly [number, number]

export const wayBetween = (from: Way, to: Way): Way => [to[0] - from[0], to[1] - from[1]]

/** Length, never nought: what is divided by it stays finite. */
export const lengthOf = ([x, y]: Way) => Math.max(1e-6, Math.hypot(x, y))

/** Positive where b goes off to the side of growing angles. */
export const crossOf = (a: Way, b: Way) => a[0] * b[1] - a[1] * b[0]

/** Angle from one direction to another, radians within half a turn. */
export const turnBetween = (a: Way, b: Way) => Math.atan2(crossOf(a, b), a[0] * b[0] + a[1] * b[1])
