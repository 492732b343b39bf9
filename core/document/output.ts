import { z } from 'zod'
import { finite, frameRange, id, name } from './fields'
import { BOUNDS } from './bounds'

/** What files an output is written as. A matte is coverage, linear: no display curve in any of them but in movies to look at. */
export const OUTPUT_FORMATS = [
  'png8',
  'png16',
  'tiff8',
  'tiff16',
  'exr-half',
  'exr-float',
  'ffv1',
  'h264',
  'vp9',
] as const
export type OutputFormat = (typeof OUTPUT_FORMATS)[number]

/**
 * One matte a picture; three in red, green and blue; all as named channels of one EXR; object ids and their coverage. Of movies to look at all mattes in white, in
 * their colours over the plate, or the plate where they are.
 */
export const OUTPUT_LAYOUTS = ['one', 'rgb', 'channels', 'object-id', 'white', 'overlay', 'cutout'] as const
export type OutputLayout = (typeof OUTPUT_LAYOUTS)[number]

/** Blocks of an EXR: not packed, line by line, sixteen lines at a time. */
export const EXR_COMPRESSIONS = ['none', 'zips', 'zip'] as const
export type ExrCompression = (typeof EXR_COMPRESSIONS)[number]

/** Whose red, green and blue the header of an EXR names. A matte has no colour: it is for who puts all files of a show into one space. */
export const PRIMARIES = ['bt709', 'bt2020', 'ap1', 'ap0'] as const

/** Attributes that files have of themselves, or that we write: a note of that name would stand in their place. */
const TAKEN_NAMES = new Set(
  [
    ...['channels', 'chromaticities', 'chunkCount', 'compression', 'dataWindow', 'displayWindow', 'framesPerSecond'],
    ...['lineOrder', 'name', 'pixelAspectRatio', 'preview', 'screenWindowCenter', 'screenWindowWidth', 'tiles'],
    ...['timeCode', 'type', 'version', 'view', 'whiteLuminance'],
    ...['shot', 'output', 'deliveryVersion', 'editSequence', 'frameVersion', 'title'],
  ].map((one) => one.toLowerCase()),
)

const noteName = z
  .string()
  .regex(
    /^[A-Za-z][A-Za-z0-9_-]{0,30}$/,
    'the name of a note begins with a letter and has letters, digits, _ and - only',
  )
  .refine((one) => !TAKEN_NAMES.has(one.toLowerCase()), 'files have something of their own by the name of that note')

const notesSchema = z
  .array(z.object({ name: noteName, value: z.string().trim().min(1, 'a note says something').max(500) }))
  .max(20, 'there are at most 20 notes')
  .refine((notes) => new Set(notes.map(({ name: one }) => one.toLowerCase())).size === notes.length, 'two notes have one name') // prettier-ignore
export type OutputNote = z.infer<typeof notesSchema>[number]

/** Notes out of lines `name = value`, or what is wrong with them. */
export function notesFromText(text: string): OutputNote[] | string {
  const lines = text.split('\n').filter((line) => line.trim() !== '')
  const parsed = notesSchema.safeParse(
    lines.map((line) => {
      const at = line.indexOf('=')
      return at < 0 ? { name: line.trim(), value: '' } : { name: line.slice(0, at).trim(), value: line.slice(at + 1) }
    }),
  )
  return parsed.success ? parsed.data : parsed.error.issues[0]!.message
}

export const textOfNotes = (notes: readonly OutputNote[]): string =>
  notes.map(({ name: one, value }) => `${one} = ${value}`).join('\n')

/** What stands for a word of each file in a name pattern. */
export const PATTERN_WORDS = ['shot', 'output', 'part', 'version', 'frame'] as const

/** An id says which Part is seen: of what stands behind another one nothing is. */
export const hasHoldouts = ({ withHoldouts, layout }: Pick<Output, 'withHoldouts' | 'layout'>): boolean =>
  withHoldouts || layout === 'object-id'

/** A frame may be several files, which names tell apart. */
const isInSeveralFiles = (layout: OutputLayout): boolean => layout === 'one' || layout === 'rgb'

/** One file for all frames. */
export const isMovie = (format: OutputFormat): boolean => format === 'ffv1' || isPreview(format)

/** A movie to look at: of eight bits, with loss. */
export const isPreview = (format: OutputFormat): boolean => format === 'h264' || format === 'vp9'

/** Pictures that show the mattes rather than being them. */
export const isShow = (layout: OutputLayout): boolean =>
  layout === 'white' || layout === 'overlay' || layout === 'cutout'

export const isExr = (format: OutputFormat): boolean => format === 'exr-half' || format === 'exr-float'

const holdsSchema = z.discriminatedUnion('what', [
  z.object({ what: z.literal('everything') }),
  z.object({ what: z.literal('subject'), subjectId: id }),
  /** Ids of Parts that are gone mean nothing. */
  z.object({ what: z.literal('parts'), partIds: z.array(id).max(BOUNDS.points) }),
])

/** Why a pattern cannot name the files of an output, or null. */
export function patternProblem(pattern: string, { layout, format }: Pick<Output, 'layout' | 'format'>): string | null {
  const unknown = [...pattern.matchAll(/\{([^{}]*)\}/g)].find(
    ([, word]) => !(PATTERN_WORDS as readonly string[]).includes(word!),
  )
  if (unknown)
    return `${unknown[0]} stands for nothing: there are ${PATTERN_WORDS.map((word) => `{${word}}`).join(', ')}`
  const bare = pattern.replace(/\{[^{}]*\}/g, 'x')
  if (/[^A-Za-z0-9_.\-/]/.test(bare)) return 'names have letters without accents, digits, _ . - and / between folders'
  if (bare.split('/').some((part) => /^\.*$/.test(part))) return 'every folder and file needs a name'
  if (isMovie(format) && pattern.includes('{frame}')) return 'a movie holds all frames: its name has no {frame} in it'
  if (!isMovie(format) && !pattern.split('/').at(-1)!.includes('{frame}')) return 'the name of a file has {frame} in it'
  if (isInSeveralFiles(layout) && !pattern.includes('{part}'))
    return 'with several pictures a frame the name has {part} in it'
  return null
}

const outputFields = z.object({
  kind: z.literal('output'),
  id,
  name,
  order: finite,
  holds: holdsSchema,
  withHoldouts: z.boolean(),
  motionBlur: z.boolean(),
  /** false: edges as hard as coverage is. */
  feather: z.boolean(),
  focus: z.boolean(),
  layout: z.enum(OUTPUT_LAYOUTS),
  format: z.enum(OUTPUT_FORMATS),
  /** Of EXR. */
  compression: z.enum(EXR_COMPRESSIONS),
  /** The whole frame, or of EXR only the pixels where there is something. */
  window: z.enum(['full', 'data']),
  /** Pixels of the files for each of the plate. */
  scale: z.union([z.literal(1), z.literal(0.5), z.literal(0.25)]),
  /** null: all frames of the shot. */
  range: frameRange.nullable(),
  /** Frames beyond the range to both sides, as far as the shot has any. */
  handles: z.number().int().min(0).max(1000),
  pattern: z.string().trim().max(200),
  /** Digits of a frame number at least. */
  padding: z.number().int().min(1).max(8),
  /** Of EXR. */
  primaries: z.enum(PRIMARIES).default('bt709'),
  /** Said in the header of each file. */
  notes: notesSchema.default([]),
})
export type Output = z.infer<typeof outputFields>

/** What of an output's settings does not go together, or null. */
function problemOfOutput({
  layout,
  format,
  window,
  pattern,
}: Pick<Output, 'layout' | 'format' | 'window' | 'pattern'>): string | null {
  if (layout === 'channels' && !isExr(format)) return 'only EXR has named channels'
  if (layout === 'object-id' && format !== 'exr-float')
    return 'object ids are 32-bit numbers: only EXR float holds them'
  if (window === 'data' && !isExr(format)) return 'only EXR has a data window'
  if (format === 'ffv1' && layout !== 'one') return 'a lossless movie has one matte each'
  if (isPreview(format) !== isShow(layout)) return 'movies to look at show all mattes, other formats hold each of them'
  return patternProblem(pattern, { layout, format })
}

/** A named thing that the shot gives to others. */
export const outputSchema = outputFields.superRefine((output, context) => {
  const problem = problemOfOutput(output)
  if (problem !== null) context.addIssue({ code: 'custom', message: problem })
})

/** What a new output is before anything is done to it. */
export const NEW_OUTPUT_FIELDS = {
  kind: 'output',
  holds: { what: 'everything' },
  withHoldouts: true,
  motionBlur: true,
  feather: true,
  focus: true,
  layout: 'one',
  format: 'png16',
  compression: 'zip',
  window: 'full',
  scale: 1,
  range: null,
  handles: 0,
  pattern: '{part}/{shot}_{part}_{version}.{frame}',
  padding: 4,
  primaries: 'bt709',
  notes: [],
} satisfies Partial<Output>

/** What a new shot gives: a picture for each matte, all of them as channels, and which Part is where. */
export function firstOutputs(newId: () => string): Output[] {
  const all = '{shot}_{output}_{version}.{frame}'
  return [
    { ...NEW_OUTPUT_FIELDS, id: newId(), name: 'Mattes', order: 0 },
    {
      ...NEW_OUTPUT_FIELDS,
      id: newId(),
      name: 'Channels',
      order: 1,
      layout: 'channels',
      format: 'exr-half',
      pattern: all,
    },
    {
      ...NEW_OUTPUT_FIELDS,
      id: newId(),
      name: 'Object ids',
      order: 2,
      layout: 'object-id',
      format: 'exr-float',
      pattern: all,
    },
  ]
}

/** What a format or a layout needs of the other: the one that was not chosen gives way. */
function layoutFor(format: OutputFormat, layout: OutputLayout): OutputLayout {
  if (isPreview(format)) return isShow(layout) ? layout : 'overlay'
  if (isShow(layout) || format === 'ffv1') return 'one'
  if (layout === 'channels' && !isExr(format)) return 'one'
  if (layout === 'object-id' && format !== 'exr-float') return isExr(format) ? 'channels' : 'one'
  return layout
}

function formatFor(layout: OutputLayout, format: OutputFormat): OutputFormat {
  if (layout === 'object-id') return 'exr-float'
  if (isShow(layout)) return isPreview(format) ? format : 'h264'
  if (layout === 'channels') return isExr(format) ? format : 'exr-half'
  if (layout === 'rgb') return isMovie(format) ? 'png16' : format
  return isPreview(format) ? 'ffv1' : format
}

/** The same name for frames or for a movie. */
function patternFor({ pattern, format, layout }: Output): string {
  let name = pattern
  if (isMovie(format)) name = name.replaceAll(/[._-]?\{frame\}/g, '')
  else if (!name.split('/').at(-1)!.includes('{frame}')) name = `${name}.{frame}`
  if (!isInSeveralFiles(layout) || name.includes('{part}')) return name
  const at = name.includes('.{frame}') ? name.lastIndexOf('.{frame}') : name.length
  return `{part}/${name.slice(0, at)}_{part}${name.slice(at)}`
}

/**
 * An output with some settings changed, and what no longer goes with them put right: named channels need EXR, object ids 32-bit numbers, movies to look at a layout
 * of theirs, several pictures a word that tells them apart, and movies a name without a frame.
 */
export function outputWith(output: Output, change: Partial<Output>): Output {
  const next = { ...output, ...change }
  if (change.layout) next.format = formatFor(next.layout, next.format)
  if (change.format) next.layout = layoutFor(next.format, next.layout)
  if (!isExr(next.format)) next.window = 'full'
  if (patternProblem(next.pattern, next)) next.pattern = patternFor(next)
  return next
}
