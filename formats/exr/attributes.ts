/** Bytes of an EXR header, growing. Numbers are little-endian. */
export class HeaderBytes {
  private readonly bytes: number[] = []

  byte(...values: number[]) {
    this.bytes.push(...values)
  }

  /** Ends with a zero byte. */
  text(value: string) {
    this.bytes.push(...new TextEncoder().encode(value), 0)
  }

  int(value: number) {
    this.bytes.push(value & 0xff, (value >> 8) & 0xff, (value >> 16) & 0xff, (value >> 24) & 0xff)
  }

  float(value: number) {
    this.bytes.push(...new Uint8Array(Float32Array.of(value).buffer))
  }

  /** An attribute: its name and type, how many bytes it has, and what `write` writes. */
  attribute(name: string, type: string, write: (value: HeaderBytes) => void) {
    const value = new HeaderBytes()
    write(value)
    this.text(name)
    this.text(type)
    this.int(value.bytes.length)
    for (const byte of value.bytes) this.bytes.push(byte)
  }

  /** Text as an attribute has it: as long as it is, without an end. */
  string(name: string, value: string) {
    this.attribute(name, 'string', (out) => out.byte(...new TextEncoder().encode(value)))
  }

  toArray(): Uint8Array {
    return Uint8Array.from(this.bytes)
  }
}

/** Chromaticities x, y of red, green, blue and white. */
const PRIMARIES = {
  // Rec. ITU-R BT.709-6 and BT.2020-2, with D65.
  bt709: [0.64, 0.33, 0.3, 0.6, 0.15, 0.06, 0.3127, 0.329],
  bt2020: [0.708, 0.292, 0.17, 0.797, 0.131, 0.046, 0.3127, 0.329],
  // SMPTE ST 2065-1 (AP0) and the Academy's S-2014-004 (AP1).
  ap0: [0.7347, 0.2653, 0, 1, 0.0001, -0.077, 0.32168, 0.33767],
  ap1: [0.713, 0.293, 0.165, 0.83, 0.128, 0.044, 0.32168, 0.33767],
}

/** What a picture says of itself beside its pixels. */
export interface ExrSaid {
  /** Width of a pixel over its height. */
  pixelAspect?: number
  framesPerSecond?: { numerator: number; denominator: number }
  /** Counted from 0 at the rate; becomes a time code without drop frames. */
  frame?: number
  /** Missing: Rec. 709. */
  primaries?: keyof typeof PRIMARIES
  /** Any text, by name. */
  texts?: Readonly<Record<string, string>>
}

/** Standard attributes of the OpenEXR project, by the names and types that it gives them. */
export function writeSaid(out: HeaderBytes, { framesPerSecond, frame, primaries = 'bt709', texts = {} }: ExrSaid) {
  out.attribute('chromaticities', 'chromaticities', (value) => PRIMARIES[primaries].forEach((one) => value.float(one)))
  if (framesPerSecond) {
    const { numerator, denominator } = framesPerSecond
    out.attribute('framesPerSecond', 'rational', (value) => {
      value.int(numerator)
      value.int(denominator)
    })
    if (frame !== undefined) {
      out.attribute('timeCode', 'timecode', (value) => {
        value.int(timeCodeOf(frame, Math.max(1, Math.round(numerator / denominator))))
        value.int(0)
      })
    }
  }
  for (const [name, text] of Object.entries(texts)) out.string(name, text)
}

/** Hours, minutes, seconds and frames, two decimal digits each, as SMPTE 12M packs them into 32 bits; it begins anew each day. */
function timeCodeOf(frame: number, framesInSecond: number): number {
  const inDay = ((frame % (86400 * framesInSecond)) + 86400 * framesInSecond) % (86400 * framesInSecond)
  const seconds = Math.floor(inDay / framesInSecond)
  const digits = (value: number) => (Math.floor(value / 10) << 4) | (value % 10)
  // Frames beyond 39 do not fit two bits of tens: such rates count every other one, as is common practice.
  const frames = framesInSecond > 40 ? Math.floor((inDay % framesInSecond) / 2) : inDay % framesInSecond
  return (
    digits(frames) |
    (digits(seconds % 60) << 8) |
    (digits(Math.floor(seconds / 60) % 60) << 16) |
    (digits(Math.floor(seconds / 3600)) << 24)
  )
}
