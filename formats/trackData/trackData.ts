import { z } from 'zod'
import {
  affineFromPoints,
  applyToPoint,
  homographyFromPoints,
  invert,
  multiply,
  similarityFromPoints,
  translation,
  type Matrix3,
} from '@tender-lasso/core/geometry'

/** What is written of each frame. */
export const TRACK_DATA_KINDS = ['position', 'similarity', 'corners', 'matrix'] as const

export const trackDataSettingsSchema = z
  .object({
    /** position: where the centre is; similarity: that with rotation and scale; corners: of the region; matrix: 3x3. */
    kind: z.enum(TRACK_DATA_KINDS),
    /** Motion is given from this frame on; on it nothing has moved. */
    relativeTo: z.number().int(),
    yAxis: z.enum(['down', 'up']),
    units: z.enum(['pixels', 'normalised']),
    /** What rotation, scale and matrix turn about: the origin of the coordinates, or the track's centre on `relativeTo`. */
    pivot: z.enum(['origin', 'centre']),
  })
  // In units of unequal length nothing turns: only square pixels have a rotation.
  .refine((s) => s.kind !== 'similarity' || s.units === 'pixels', 'rotation and scale are told in pixels')
export type TrackDataSettings = z.infer<typeof trackDataSettingsSchema>

const point = z.tuple([z.number(), z.number()])

/** A track as it is handed off: all numbers in the coordinates that the settings name. */
export const trackDataSchema = z
  .object({
    format: z.literal('tender-lasso-track'),
    version: z.literal(1),
    name: z.string().min(1).max(120),
    plate: z.object({
      width: z.number().int().positive(),
      height: z.number().int().positive(),
      framesPerSecond: z.number().positive(),
      /** Width of a pixel over its height: rotation is told in square pixels. */
      pixelAspect: z.number().positive().default(1),
    }),
    settings: trackDataSettingsSchema,
    /** The track's centre and corners on the frame `relativeTo`. */
    centre: point,
    corners: z.array(point).length(4),
    frames: z
      .array(z.object({ frame: z.number().int(), values: z.array(z.number()) }))
      .min(1)
      .max(100_000),
  })
  .refine(
    (data) => data.frames.every(({ values }) => values.length === columnsOf(data.settings.kind).length),
    'a frame has another number of values than its kind asks for',
  )
export type TrackData = z.infer<typeof trackDataSchema>

/** Names of the values of a frame. */
export function columnsOf(kind: TrackDataSettings['kind']): readonly string[] {
  switch (kind) {
    case 'position':
      return ['x', 'y']
    case 'similarity':
      return ['x', 'y', 'rotation', 'scale']
    case 'corners':
      return ['x1', 'y1', 'x2', 'y2', 'x3', 'y3', 'x4', 'y4']
    case 'matrix':
      return ['m11', 'm12', 'm13', 'm21', 'm22', 'm23', 'm31', 'm32', 'm33']
  }
}

/** Motion of a track in plate pixels, y down, relative to one frame. */
export interface TrackMotion {
  name: string
  width: number
  height: number
  framesPerSecond: number
  /** Width of a pixel over its height. */
  pixelAspect: number
  /** On the frame that motion is relative to. */
  centre: readonly [number, number]
  corners: readonly (readonly [number, number])[]
  /** Plate positions of that frame to those of each other. */
  frames: readonly { frame: number; matrix: Matrix3 }[]
}

/** From plate pixels, y down, to the coordinates that are written. */
function coordinates({ yAxis, units }: TrackDataSettings, width: number, height: number): Matrix3 {
  const [sx, sy] = units === 'normalised' ? [1 / width, 1 / height] : [1, 1]
  return yAxis === 'down'
    ? Float64Array.of(sx, 0, 0, 0, sy, 0, 0, 0, 1)
    : Float64Array.of(sx, 0, 0, 0, -sy, height * sy, 0, 0, 1)
}

const moved = (matrix: Matrix3, [x, y]: readonly [number, number]): [number, number] => {
  const [u, v] = applyToPoint(matrix, x, y)
  return [u!, v!]
}

/** The motion in the coordinates and the form that the settings ask for. */
export function trackDataOf(motion: TrackMotion, settings: TrackDataSettings): TrackData {
  const { name, width, height, framesPerSecond, pixelAspect } = motion
  const map = coordinates(settings, width, height)
  const back = invert(map)
  const centre = moved(map, motion.centre)
  const corners = motion.corners.map((corner) => moved(map, corner))
  return {
    format: 'tender-lasso-track',
    version: 1,
    name,
    plate: { width, height, framesPerSecond, pixelAspect },
    settings,
    centre,
    corners,
    frames: motion.frames.map(({ frame, matrix }) => ({
      frame,
      values: valuesOf(multiply(map, multiply(matrix, back)), settings, centre, corners, pixelAspect),
    })),
  }
}

function valuesOf(
  m: Matrix3,
  { kind, pivot }: TrackDataSettings,
  centre: [number, number],
  corners: readonly [number, number][],
  pixelAspect: number,
): number[] {
  const about = pivot === 'centre' ? centre : ([0, 0] as const)
  switch (kind) {
    case 'position':
      return moved(m, centre)
    case 'similarity': {
      // The rotation and scale nearest to the motion over the track's own corners.
      const from = corners.flat()
      const fit = similarityFromPoints(
        from,
        corners.flatMap((corner) => moved(m, corner)),
        pixelAspect,
      )
      const down = fit[3]! / pixelAspect
      const [x, y] = pivot === 'centre' ? moved(m, centre) : moved(fit, about)
      return [x, y, (Math.atan2(down, fit[0]!) * 180) / Math.PI, Math.hypot(fit[0]!, down)]
    }
    case 'corners':
      return corners.flatMap((corner) => moved(m, corner))
    case 'matrix': {
      // About the centre: where a place lies relative to the centre of `relativeTo`, before and after.
      const shifted = multiply(translation(-about[0], -about[1]), multiply(m, translation(about[0], about[1])))
      return Array.from(shifted, (value) => value / shifted[8]!)
    }
  }
}

/** The motion that track data tell, in plate pixels, y down. */
export function motionOfTrackData(data: TrackData): TrackMotion {
  const { settings, plate } = data
  const map = coordinates(settings, plate.width, plate.height)
  const back = invert(map)
  return {
    name: data.name,
    ...plate,
    centre: moved(back, data.centre),
    corners: data.corners.map((corner) => moved(back, corner)),
    frames: data.frames.map(({ frame, values }) => ({
      frame,
      matrix: multiply(back, multiply(matrixOf(values, data), map)),
    })),
  }
}

function matrixOf(
  values: readonly number[],
  { settings, centre, corners, plate: { pixelAspect } }: TrackData,
): Matrix3 {
  const about = settings.pivot === 'centre' ? centre : ([0, 0] as const)
  switch (settings.kind) {
    case 'position':
      return translation(values[0]! - centre[0], values[1]! - centre[1])
    case 'similarity': {
      const [x, y, degrees, scale] = values as [number, number, number, number]
      const [cos, sin] = [Math.cos((degrees * Math.PI) / 180) * scale, Math.sin((degrees * Math.PI) / 180) * scale]
      const turn = Float64Array.of(cos, -sin / pixelAspect, 0, sin * pixelAspect, cos, 0, 0, 0, 1)
      return multiply(translation(x, y), multiply(turn, translation(-about[0], -about[1])))
    }
    case 'corners':
      return isAffine(corners, values)
        ? affineFromPoints(corners.flat(), values)
        : homographyFromPoints(corners.flat(), values)
    case 'matrix':
      return multiply(
        translation(about[0], about[1]),
        multiply(Float64Array.from(values), translation(-about[0], -about[1])),
      )
  }
}

/** A parallelogram stays one: the affine fit is the exact answer, and does not mix in rounding as perspective. */
function isAffine(corners: readonly [number, number][], values: readonly number[]): boolean {
  const bend = (p: readonly number[]) => Math.hypot(p[0]! - p[2]! + p[4]! - p[6]!, p[1]! - p[3]! + p[5]! - p[7]!)
  const size = Math.hypot(values[0]! - values[4]!, values[1]! - values[5]!)
  return bend(corners.flat()) < 1e-12 * size && bend(values) < 1e-12 * size
}
