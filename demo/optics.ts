import type { Piece } from './figure'

/** How a camera takes the scene. */
export interface Optics {
  /** Degrees, centred on the frame (common practice: 180 is 1/48 s at 24 fps). */
  shutterAngle: number
  /** Pictures that are averaged while the shutter is open; a multiple of the four backgrounds among them. */
  subTimes: number
  /** Times that the truth is averaged of, and at each of them the offsets of a soft edge: together a multiple of four. */
  truthSubTimes: number
  truthOffsets: number
  /** Sigma of the blur of all of a piece that is out of focus, pixels of a 1280 wide picture. */
  focusOf(piece: Piece, time: number): number
}

/** Sigma of a piece's edge at a time: what it is of by itself, and the blur of the lens. */
export const edgeSigma = (optics: Optics, piece: Piece, time: number) =>
  Math.hypot(piece.softness, optics.focusOf(piece, time))

const USUAL: Optics = { shutterAngle: 180, subTimes: 16, truthSubTimes: 24, truthOffsets: 8, focusOf: () => 0 }

/** Of the shot that pulls focus: its first and its last frame, and sigma of what walks at its middle and of what stands still. */
export const FOCUS_PULL = { first: 1001, last: 1024, most: 3, post: 2 }

/** Sharp at both ends of the shot, softest in its middle. */
function focusPulled(piece: Piece, time: number): number {
  if (piece.id === 'post') return FOCUS_PULL.post
  const share = (time - FOCUS_PULL.first) / (FOCUS_PULL.last - FOCUS_PULL.first)
  return FOCUS_PULL.most * Math.sin(Math.PI * Math.min(1, Math.max(0, share))) ** 2
}

/** The shot as it is demonstrated, and as tests want it. Many sub-times hold a wide blur without steps. */
export const OPTICS = {
  usual: USUAL,
  shutter90: { ...USUAL, shutterAngle: 90 },
  shutter270: { ...USUAL, shutterAngle: 270 },
  focusPull: { ...USUAL, subTimes: 64, truthSubTimes: 96, truthOffsets: 1, focusOf: focusPulled },
} satisfies Record<string, Optics>

export type OpticsName = keyof typeof OPTICS
