/** Shutter in degrees of a frame (360 = open all the time). Phase is when it opens, relative to the frame's time. */
export interface Shutter {
  angle: number
  phase: number
}

/** Document time f is mid-exposure of frame f, so a centred shutter opens half its angle before. */
export function centredShutter(angle: number): Shutter {
  return { angle, phase: -angle / 2 }
}

/** Time at position u in 0..1 of the open shutter [f + phase/360, f + (phase + angle)/360]; u = 0.5 is its middle. */
export function shutterTime(frame: number, shutter: Shutter, u: number): number {
  return frame + (shutter.phase + shutter.angle * u) / 360
}
