import type { PictureBlur } from './pictureBlur'
import { PlainBlur } from './plainBlur'
import { wasmBlur } from './wasmBlur'

let fastest: PictureBlur | null = null

/** The fastest that runs here. */
export const fastestBlur = (): PictureBlur => (fastest ??= wasmBlur() ?? new PlainBlur())
