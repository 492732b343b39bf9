import { z } from 'zod'

export const BAKED_OUTLINES_FORMAT = 'tender-lasso-outlines'

const number = z.number()
const share = number.min(0).max(1)
const point = z.tuple([number, number])

const outlineSchema = z
  .array(z.strictObject({ anchor: point, leaving: point, arriving: point }))
  .describe(
    'A closed outline of cubic curves, corner by corner: each curve runs from anchor by leaving and arriving to the next anchor, the last one back to the first.',
  )

const falloffSchema = z.union([
  z.enum(['smooth', 'linear', 'early', 'late']),
  z
    .tuple([number, number])
    .describe('Slopes where the edge has faded out and where it is full, of a cubic from 0 to 1.'),
])

export type BakedFalloff = z.infer<typeof falloffSchema>

const layerSchema = z.strictObject({
  operation: z
    .enum(['add', 'subtract', 'intersect', 'difference'])
    .describe('What the layer does to those before it; the first one adds. Outlines of one layer are united.'),
  opacity: share,
  featherIn: number.min(0),
  featherOut: number.min(0),
  falloff: falloffSchema,
  grow: number,
  focus: number.min(0).describe('Sigma of a Gaussian over the layer.'),
  outlines: z.array(outlineSchema),
})

const partSchema = z.strictObject({
  name: z.string(),
  colour: z.string().regex(/^#[0-9a-f]{6}$/),
  holdsOut: z.boolean().describe('It cuts itself out of the Parts after it.'),
  blur: number.min(0),
  blackPoint: share,
  whitePoint: share,
  opacity: share,
  layers: z.array(layerSchema),
})

/** Outlines of a shot frame by frame, with all that moves them worked out: for programs that know nothing of keys, tracks or Movers. */
export const bakedOutlinesSchema = z
  .strictObject({
    format: z.literal(BAKED_OUTLINES_FORMAT),
    version: z.literal(1),
    name: z.string(),
    plate: z.strictObject({
      width: number.int().positive(),
      height: number.int().positive(),
      pixelAspect: number.positive().describe('Width of a pixel over its height.'),
      framesPerSecond: z.strictObject({ numerator: number.int().positive(), denominator: number.int().positive() }),
    }),
    frames: z.array(z.strictObject({ frame: number.int(), parts: z.array(partSchema).describe('Nearest first.') })),
  })
  .describe('Places and widths are in pixels of the plate, x to the right, y down, from its upper left corner.')
export type BakedOutlines = z.infer<typeof bakedOutlinesSchema>

/** The published JSON Schema (draft 2020-12). */
export const bakedOutlinesJsonSchema = (): object => ({
  title: 'Outlines of a shot, frame by frame',
  ...z.toJSONSchema(bakedOutlinesSchema),
})
