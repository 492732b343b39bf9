/** A vector of the plane: x and y. */
export type Vector2d = readonly [number, number]

export const vectorBetween = (from: Vector2d, to: Vector2d): Vector2d => [to[0] - from[0], to[1] - from[1]]

/** Length, never nought: what is divided by it stays finite. */
export const vectorLength = ([x, y]: Vector2d) => Math.max(1e-6, Math.hypot(x, y))

/** Positive where b goes off to the side of growing angles. */
export const crossProduct = (a: Vector2d, b: Vector2d) => a[0] * b[1] - a[1] * b[0]

/** The same angle within half a turn, radians. */
export const wrappedAngle = (angle: number) => Math.atan2(Math.sin(angle), Math.cos(angle))

/** Angle from one direction to another, radians within half a turn. */
export const angleBetween = (a: Vector2d, b: Vector2d) => Math.atan2(crossProduct(a, b), a[0] * b[0] + a[1] * b[1])
