import type { Feather } from './feather'
import { PlainFeather } from './plainFeather'
import { wasmFeather } from './wasmFeather'

let fastest: Feather | null = null

/** The fastest that runs here. */
export const fastestFeather = () => (fastest ??= wasmFeather() ?? new PlainFeather())
