import { PlainPlanes } from './plainPlanes'
import type { Planes } from './planes'
import { wasmPlanes } from './wasmPlanes'

let fastest: Planes | null = null

/** The fastest that run here. */
export const fastestPlanes = (): Planes => (fastest ??= wasmPlanes() ?? new PlainPlanes())
