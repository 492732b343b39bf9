import type { ChannelAddress, ChannelOf, Key, Patch } from '../document'

/**
 * Gathers the numbers of one channel's keys that an edit makes others. Keys of one edit mostly change in the same places:
 * these go into one patch.
 */
export class ChangedNumbers {
  private readonly patches: Patch[] = []
  private places = new Int32Array(0)
  private indices: number[] = []
  private times: number[] = []
  /** Room for the keys so far and some more: as many as there are would be too much where each changes in other places. */
  private before = new Float64Array(0)
  private after = new Float64Array(0)

  constructor(private readonly channel: ChannelOf) {}

  add(key: Key, values: Float64Array) {
    if (this.places.length < values.length) this.places = new Int32Array(values.length)
    const { places } = this
    const was = key.values
    let count = 0
    for (let i = 0; i < values.length; i++) if (values[i] !== was[i]) places[count++] = i
    if (count === 0) return
    if (!this.areTheSame(count)) this.begin(count)
    const at = this.times.length * count
    if (this.before.length < at + count) this.grow()
    for (let n = 0; n < count; n++) {
      const i = places[n]!
      this.before[at + n] = was[i]!
      this.after[at + n] = values[i]!
    }
    this.times.push(key.time)
  }

  finished(): Patch[] {
    this.flush()
    return this.patches
  }

  private areTheSame(count: number): boolean {
    if (this.indices.length !== count) return false
    for (let n = 0; n < count; n++) if (this.indices[n] !== this.places[n]) return false
    return true
  }

  private begin(count: number) {
    this.flush()
    this.indices = Array.from(this.places.subarray(0, count))
    this.before = new Float64Array(2 * count)
    this.after = new Float64Array(2 * count)
  }

  private grow() {
    const length = Math.min(4 * this.before.length, this.indices.length * this.channel.keys.length)
    const [before, after] = [new Float64Array(length), new Float64Array(length)]
    before.set(this.before)
    after.set(this.after)
    this.before = before
    this.after = after
  }

  private flush() {
    const { times, indices } = this
    if (times.length === 0) return
    const [before, after] = [this.before, this.after].map((numbers) => numbers.subarray(0, times.length * indices.length)) // prettier-ignore
    this.patches.push({ kind: 'values', ...addressOf(this.channel), times, indices, before: before!, after: after! })
    this.times = []
    this.indices = []
  }
}

/** A new key, which runs on as the one before it does. */
export function keySet(channel: ChannelOf, frame: number, values: Float64Array, touched?: string[]): Patch {
  const before = channel.keys.findLast((k) => k.time < frame) ?? channel.keys[0]
  const interpolation = before?.interpolation ?? channel.definition.interpolations[0]!
  return keyPatch(channel, frame, null, { time: frame, interpolation, values, ...(touched && { touched }) })
}

/** A key made, replaced or deleted. */
export function keyPatch(channel: ChannelAddress, time: number, before: Key | null, after: Key | null): Patch {
  return { kind: 'key', ...addressOf(channel), time, before, after }
}

/** A key with other numbers and at another time, in place of one that stands there. */
export function keyReplaced(channel: ChannelOf, key: Key, moved: Key): Patch[] {
  if (moved.time === key.time) return [keyPatch(channel, key.time, key, moved)]
  const inTheWay = channel.keys.find(({ time }) => time === moved.time) ?? null
  return [keyPatch(channel, moved.time, inTheWay, moved), keyPatch(channel, key.time, key, null)]
}

/** Patches that put other keys, by their times, in place of all of a channel's. */
export function keysReplaced(channel: ChannelOf, after: ReadonlyMap<number, Key>): Patch[] {
  const before = new Map(channel.keys.map((key) => [key.time, key]))
  const times = [...new Set([...before.keys(), ...after.keys()])]
  const patches = times.flatMap((time) => {
    const [was, is] = [before.get(time) ?? null, after.get(time) ?? null]
    return was === is ? [] : [{ time, was, is }]
  })
  // Made before deleted: a shape has a key at every moment.
  const inOrder = patches.sort((a, b) => Number(a.is === null) - Number(b.is === null))
  return inOrder.map(({ time, was, is }) => keyPatch(channel, time, was, is))
}

const addressOf = ({ id, channel }: ChannelAddress): ChannelAddress => ({ id, channel })
