import { columnsOf, trackDataSchema, type TrackData } from './trackData'

/** Track data cannot be read; `message` says what is wrong in words for people. */
class TrackDataError extends Error {}

export function trackDataJson(data: TrackData): string {
  return `${JSON.stringify(data, null, 1)}\n`
}

/**
 * Comma-separated: what holds for all frames in lines "# name, value, ...", then a line of column names, then a line a
 * frame. Numbers are written so that they read back as the same.
 */
export function trackDataCsv(data: TrackData): string {
  const { settings, plate } = data
  const head = [
    ['format', data.format, data.version],
    ['name', JSON.stringify(data.name)],
    ['plate', plate.width, plate.height, plate.framesPerSecond, plate.pixelAspect],
    ['kind', settings.kind],
    ['relativeTo', settings.relativeTo],
    ['yAxis', settings.yAxis],
    ['units', settings.units],
    ['pivot', settings.pivot],
    ['centre', ...data.centre],
    ['corners', ...data.corners.flat()],
  ].map((cells) => `# ${cells.join(', ')}`)
  const rows = data.frames.map(({ frame, values }) => [frame, ...values].join(','))
  return `${[...head, ['frame', ...columnsOf(settings.kind)].join(','), ...rows].join('\n')}\n`
}

/**
 * Track data from either form.
 *
 * @throws TrackDataError
 */
export function readTrackData(text: string): TrackData {
  const parsed = trackDataSchema.safeParse(text.trimStart().startsWith('{') ? fromJson(text) : fromCsv(text))
  if (parsed.success) return parsed.data
  const issue = parsed.error.issues[0]
  throw new TrackDataError(
    `These are not track data: ${[issue?.path.join('.'), issue?.message].filter(Boolean).join(': ')}`,
  )
}

function fromJson(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    throw new TrackDataError('These are not track data: the JSON is broken')
  }
}

function fromCsv(text: string): unknown {
  const head = new Map<string, string[]>()
  const frames: { frame: number; values: number[] }[] = []
  let hasColumns = false
  for (const [i, line] of text.split(/\r?\n/).entries()) {
    if (line.startsWith('#')) {
      const [name = '', ...cells] = line.slice(1).split(',')
      head.set(name.trim(), name.trim() === 'name' ? [cells.join(',').trim()] : cells.map((cell) => cell.trim()))
    } else if (line.startsWith('frame')) hasColumns = true
    else if (line.trim()) {
      const numbers = line.split(',').map(Number)
      if (!hasColumns || numbers.some((value) => !Number.isFinite(value))) {
        throw new TrackDataError(`These are not track data: line ${i + 1} cannot be read`)
      }
      frames.push({ frame: numbers[0]!, values: numbers.slice(1) })
    }
  }
  const numbersOf = (name: string) => head.get(name)?.map(Number) ?? []
  const word = (name: string) => head.get(name)?.[0]
  const corners = numbersOf('corners')
  const [width, height, framesPerSecond, pixelAspect] = numbersOf('plate')
  return {
    format: word('format'),
    version: numbersOf('format')[1],
    name: word('name') === undefined ? undefined : fromJson(word('name')!),
    plate: { width, height, framesPerSecond, pixelAspect },
    settings: {
      kind: word('kind'),
      relativeTo: numbersOf('relativeTo')[0],
      yAxis: word('yAxis'),
      units: word('units'),
      pivot: word('pivot'),
    },
    centre: numbersOf('centre'),
    corners: [0, 2, 4, 6].map((k) => corners.slice(k, k + 2)),
    frames,
  }
}
