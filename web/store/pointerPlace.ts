import { create } from 'zustand'

/** Beside the state of the shot, since it changes with every move of the hand. */
export const usePointerPlace = create<{ place: readonly [number, number] | null }>(() => ({ place: null }))

/** Where the pointer was last seen over the picture, plate pixels of the frame shown then; null before the first time. */
export const pointerPlace = () => usePointerPlace.getState().place

export const notePointerPlace = (x: number, y: number) => usePointerPlace.setState({ place: [x, y] })
