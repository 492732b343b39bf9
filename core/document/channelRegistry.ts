import { TANGENT_STRIDE, type Interpolation } from '../animation'
import { BOUNDS } from './bounds'
import type { Channel, Key } from './channel'

/** How a stored number is shown to people, see {@link UNITS}. */
export type Unit = 'px' | 'share' | 'turn' | 'degrees' | 'logScale' | 'none'

/** One of the numbers of a channel. */
export interface ChannelNumber {
  label: string
  unit: Unit
  /** Of the stored number. */
  bounds: readonly [number, number]
  /** What a change seen on one object or frame does to others: they become as much more, as many times it, or the same. */
  relative: 'add' | 'multiply' | 'replace'
}

/** What is to be known of a channel, wherever it is keyed, edited, shown or drawn. */
export interface ChannelDefinition {
  label: string
  numbers: readonly ChannelNumber[]
  /** Of an outline: the numbers are those of one point, and there are as many times as many as it has points. */
  isPerPoint: boolean
  /** Numbers of an object that says nothing else. Stored documents rely on them. Null: without keys there is nothing. */
  initial: readonly number[] | null
  /** How a first key runs on, and what else a key may do. */
  interpolations: readonly Interpolation[]
  /** moved: in the space that goes with the object; plate: in pixels of the plate; none: it lies nowhere. */
  space: 'moved' | 'plate' | 'none'
  /** Before its first key a channel has that key's numbers, or its constant's. */
  beforeFirst: 'key' | 'constant'
  /** Without a key there would be nothing: the last one cannot be taken away. */
  lastKeyStays: boolean
  /** Typed, it is constant until somebody keys it; of the others every edit is a key. */
  isSetting: boolean
}

const ANY: readonly [number, number] = [-BOUNDS.number, BOUNDS.number]
const SMOOTH: readonly Interpolation[] = ['smooth', 'linear', 'ease', 'hold']
const STRAIGHT: readonly Interpolation[] = ['linear', 'smooth', 'ease', 'hold']

/** Of units that are not added to: sizes are multiplied, places in an order are taken. */
const RELATIVE: Partial<Record<Unit, ChannelNumber['relative']>> = { logScale: 'multiply', none: 'replace' }

const number = (label: string, unit: Unit, bounds: readonly [number, number] = ANY): ChannelNumber => ({
  label,
  unit,
  bounds,
  relative: RELATIVE[unit] ?? 'add',
})

const channel = (
  label: string,
  numbers: readonly ChannelNumber[],
  rest: Partial<ChannelDefinition>,
): ChannelDefinition => ({
  label,
  numbers,
  isPerPoint: false,
  initial: null,
  interpolations: SMOOTH,
  space: 'none',
  beforeFirst: 'key',
  lastKeyStays: false,
  isSetting: false,
  ...rest,
})

/** A channel of a single number, constant until it is keyed. */
const single = (
  label: string,
  unit: Unit,
  initial: number,
  bounds: readonly [number, number],
  rest: Partial<ChannelDefinition> = {},
) => channel(label, [number(label, unit, bounds)], { initial: [initial], isSetting: true, ...rest })

const SHUTTER = {
  shutterAngle: single('Shutter angle', 'degrees', 180, [0, 720]),
  shutterPhase: single('Shutter phase', 'degrees', -90, [-720, 720]),
}

const PLACE = [number('x', 'px'), number('y', 'px')]

/**
 * Every number of a document that can change over time. One that is added here can be keyed, typed for many objects at
 * once, seen in the timeline, drawn as a curve, copied, retimed and stored, with no more code than that which uses it.
 * The first of a kind is meant where a patch names no channel.
 */
export const CHANNELS = {
  shot: SHUTTER,
  part: {
    /** Way of the pivot and turn and size about it, in the space that carries the Part. */
    pose: channel(
      'Pose',
      [...PLACE, number('Rotation', 'turn'), number('Scale x', 'logScale'), number('Scale y', 'logScale')],
      { initial: [0, 0, 0, 0, 0], space: 'moved' },
    ),
    /** Place of a pivot that is held by keys of its own, in the space that carries the Part. */
    pivot: channel('Pivot', PLACE, { interpolations: STRAIGHT, space: 'moved', lastKeyStays: true }),
    /** Smaller is nearer to the camera. */
    depth: single('Depth', 'none', 0, ANY, { interpolations: ['hold'], beforeFirst: 'constant' }),
    /** Done to the matte of all its shapes, in this order. */
    blur: single('Blur', 'px', 0, [0, 200]),
    blackPoint: single('Black point', 'share', 0, [0, 1]),
    whitePoint: single('White point', 'share', 1, [0, 1]),
    opacity: single('Opacity', 'share', 1, [0, 1]),
    ...SHUTTER,
  },
  shape: {
    outline: channel(
      'Outline',
      [
        ...PLACE,
        number('Arriving tangent x', 'px'),
        number('Arriving tangent y', 'px'),
        number('Leaving tangent x', 'px'),
        number('Leaving tangent y', 'px'),
        // Added to those of the shape, so either may be below zero.
        number('Feather in', 'px'),
        number('Feather out', 'px'),
        number('Tension', 'share', [0, 1]),
        number('Width', 'px', [0, BOUNDS.number]),
        // Added to that of the shape as well.
        number('Focus blur', 'px'),
      ],
      { isPerPoint: true, space: 'moved', lastKeyStays: true },
    ),
    innerFeather: single('Feather in', 'px', 0, [0, 1000]),
    outerFeather: single('Feather out', 'px', 0, [0, 1000]),
    grow: single('Grow', 'px', 0, [-1000, 1000]),
    /** Sigma of a Gaussian over the whole shape, independent of its feather. */
    focus: single('Focus blur', 'px', 0, [0, 200]),
    opacity: single('Opacity', 'share', 1, [0, 1]),
  },
  track: {
    /** Another place reported than the one followed. */
    offset: channel('Offset', PLACE, { initial: [0, 0], interpolations: STRAIGHT, space: 'plate' }),
    /** Outlines of leave-outs, each under its own id. */
    leaveOut: channel('Leave-out', PLACE, {
      isPerPoint: true,
      interpolations: STRAIGHT,
      space: 'plate',
      lastKeyStays: true,
    }),
  },
} satisfies Record<string, Record<string, ChannelDefinition>>

export type ChannelKind = keyof typeof CHANNELS
export type ChannelNameOf<Kind extends ChannelKind> = keyof (typeof CHANNELS)[Kind] & string

/** The channel that is meant where none is named: the outline of a shape, the pose of a Part. */
export const firstChannel = (kind: ChannelKind): string => Object.keys(CHANNELS[kind])[0]!

/** What is known of a channel; undefined where objects of that kind have none of that name. */
export function channelDefinition(kind: string, name: string): ChannelDefinition | undefined {
  if (!Object.hasOwn(CHANNELS, kind)) return undefined
  const ofKind: Record<string, ChannelDefinition> = CHANNELS[kind as ChannelKind]
  const family = name.split(':')[0]!
  return Object.hasOwn(ofKind, family) ? ofKind[family] : undefined
}

/** Of an object: numbers of a key of one of its channels; null where keys may have any number of points. */
export function channelStride(definition: ChannelDefinition, pointCount: number | null): number | null {
  if (!definition.isPerPoint) return definition.numbers.length
  return pointCount === null ? null : pointCount * definition.numbers.length
}

/**
 * Why a key cannot be one of a channel, or null.
 *
 * @param points  ids of a shape's points; null: keys may have any number of points, three or more
 */
export function misfitOfKey(
  definition: ChannelDefinition,
  points: ReadonlySet<string> | null,
  key: Key,
): string | null {
  const misfit = misfitOfValues(definition, points, key.values)
  if (misfit) return misfit
  if (!definition.interpolations.includes(key.interpolation)) return `${definition.label} cannot run on like that`
  if (key.touched && !points) return `a key of ${definition.label} holds no points`
  if (key.touched?.some((one) => !points!.has(one))) return 'a key holds points that the shape does not have'
  if (key.tangents && key.tangents.length !== key.values.length * TANGENT_STRIDE) return 'two tangents a number'
  return null
}

function misfitOfValues(
  definition: ChannelDefinition,
  points: ReadonlySet<string> | null,
  values: ArrayLike<number>,
): string | null {
  const { numbers, isPerPoint } = definition
  const stride = channelStride(definition, points?.size ?? null)
  if (stride === null ? values.length < 3 * numbers.length || values.length % numbers.length : values.length !== stride)
    return `key of ${definition.label} of another length`
  // Numbers of outlines have been looked at one by one already, and are many.
  if (isPerPoint) return null
  for (const [i, { bounds, label }] of numbers.entries()) {
    const value = values[i]!
    if (value < bounds[0] || value > bounds[1]) return `${label} lies between ${bounds[0]} and ${bounds[1]}`
  }
  return null
}

/** Why channels cannot be those of an object, or null; parsed by their schema already. */
export function misfitOfChannels(
  kind: ChannelKind,
  channels: Readonly<Record<string, Channel>>,
  points: ReadonlySet<string> | null,
): string | null {
  for (const [name, { constant, keys }] of Object.entries(channels)) {
    const definition = channelDefinition(kind, name)
    if (!definition) return `a ${kind} has no channel ${name}`
    const misfit = constant && misfitOfValues(definition, points, constant)
    if (misfit) return misfit
    for (const key of keys) {
      const wrong = misfitOfKey(definition, points, key)
      if (wrong) return wrong
    }
  }
  return null
}
