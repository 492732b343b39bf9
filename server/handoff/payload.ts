import { z } from 'zod'
import { id, NEW_OUTPUT_FIELDS, outputSchema, type Output } from '@tender-lasso/core/document'
import type { DeliveredMatte } from '@tender-lasso/core/handoff'

const range = z.tuple([z.number().int(), z.number().int()])
const mattes = z.array(z.object({ partId: id, name: z.string() }))

const deliverySchema = z.object({
  /** As it was when the delivery was asked for. */
  output: outputSchema,
  /** Counted from 1, of each output by itself. */
  version: z.number().int().positive(),
  /** The edit of the shot's log up to which it is made. */
  sequence: z.number().int().min(0),
  range,
  mattes,
})

/** What the job of a delivery needs. */
export interface Delivery {
  output: Output
  version: number
  sequence: number
  range: [number, number]
  mattes: DeliveredMatte[]
}

/** Hand-offs that were asked for before there were outputs: one that never had a name, so that they can be gone on with. */
const formerSchema = z
  .object({
    partIds: z.array(id),
    range,
    withHoldouts: z.boolean(),
    motionBlur: z.boolean(),
    format: z.enum(['png16', 'exr-half']),
    sequence: z.number().int().min(0),
    mattes,
  })
  .transform(({ partIds, withHoldouts, motionBlur, format, ...rest }): Delivery => {
    const isPng = format === 'png16'
    const output: Output = {
      ...NEW_OUTPUT_FIELDS,
      id: 'former',
      name: 'Mattes',
      order: 0,
      holds: { what: 'parts', partIds },
      withHoldouts,
      motionBlur,
      format,
      layout: isPng ? 'one' : 'channels',
      pattern: isPng ? '{part}/{shot}_{part}.{frame}' : '{shot}_mattes.{frame}',
    }
    return { ...rest, output, version: 1 }
  })

const anySchema = z.union([deliverySchema, formerSchema])

/** What a job's row says of its delivery; null where it says something else. */
export const deliveryOf = (payload: unknown): Delivery | null => anySchema.safeParse(payload).data ?? null
