import { z } from 'zod'
import { BOUNDS } from './bounds'
import { id, numberList, numbers } from './fields'

const interpolationSchema = z.enum(['linear', 'smooth', 'ease', 'hold'])

export const keyTime = z.number().min(-BOUNDS.frame).max(BOUNDS.frame)

export const keySchema = z.object({
  time: keyTime,
  interpolation: interpolationSchema,
  values: numbers,
  /** Of an outline: the points that this key holds; the others run on between their own keys. Missing: all. */
  touched: z.array(id).min(1).max(BOUNDS.points).optional(),
  /** Tangents over time that were set by hand, TANGENT_STRIDE numbers a value. */
  tangents: numbers.optional(),
})

/**
 * Numbers of an object that can change over time: keys in the order of time, and what holds where there are none.
 * A channel that is not stored has its initial numbers, see {@link CHANNELS}.
 */
export const channelSchema = z.object({
  constant: numbers.optional(),
  keys: z
    .array(keySchema)
    .max(BOUNDS.keys)
    .refine((keys) => keys.every((key, i) => i === 0 || keys[i - 1]!.time < key.time), 'keys out of order'),
})

/** Of a family of channels, such as outlines of leave-outs, the name is followed by which of them. */
export const channelName = z.string().regex(/^[A-Za-z]{1,40}(:[A-Za-z0-9_-]{1,40})?$/)

export const constantNumbers = numberList().transform((values) => Array.from(values))

export type Key = z.infer<typeof keySchema>
export type Channel = z.infer<typeof channelSchema>
/** Channels of an object by name; only those that say something. */
export type Channels = Record<string, Channel>

export const NO_KEYS: Key[] = []
