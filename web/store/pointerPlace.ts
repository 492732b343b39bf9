/** Where the pointer was last seen over the picture, plate pixels of the frame shown then; null before the first time. */
let place: readonly [number, number] | null = null

export const pointerPlace = () => place

export function notePointerPlace(x: number, y: number) {
  place = [x, y]
  window.dispatchEvent(new CustomEvent('pointer-place', { detail: place }))
}
