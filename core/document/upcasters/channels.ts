import { sameValue } from '../sameValue'
import { fieldsIn, isFields, numbersIn, type Fields } from './json'
import { wideBlock, wideTrack } from './wideTracks'
import type { Upcaster } from './upcaster'

/**
 * Version 3: every number that changes over time is a channel. There were five kinds of keys (outlines and poses, places
 * of pivots, depths, offsets, outlines of leave-outs), and feather, grow, opacity and shutter had none. What had names of
 * our own making goes by the terms of the field.
 */
export const channelsOfEverything: Upcaster = {
  to: 3,
  object(former) {
    const object = renamed(former) as Fields
    switch (object.kind) {
      case 'shot': {
        const { shutter, ...rest } = object
        return { ...rest, channels: shutterChannels(shutter) }
      }
      case 'part':
        return partWithChannels(object)
      case 'shape': {
        const { edge, opacity, keys, ...rest } = object
        return { ...rest, channels: { outline: { keys }, ...edgeChannels(edge), opacity: constant(opacity) } }
      }
      case 'track': {
        const { offset, leaveOut, ...rest } = wideTrack(object)
        const { entries, channels } = leaveOutChannels(leaveOut)
        return { ...rest, leaveOut: entries, channels: { ...keyed('offset', offsetKeys(offset)), ...channels } }
      }
      default:
        return object
    }
  },
  patch(patch) {
    if (patch.kind === 'block') return [{ ...patch, before: wideBlock(patch.before), after: wideBlock(patch.after) }]
    return patch.kind === 'field' ? fieldPatches(patch) : [patch]
  },
}

/** Properties by their former names. */
const NAMES: Readonly<Record<string, string>> = {
  between: 'interpolateBy',
  carriers: 'frozenMovers',
  look: 'preprocessing',
}

/** An object with its properties, and those of its groups of moved points, by their present names. */
function renamed(value: unknown): unknown {
  if (!isFields(value)) return value
  return Object.fromEntries(
    Object.entries(value).map(([name, inner]) => [NAMES[name] ?? name, name === 'movedPoints' ? groups(inner) : inner]),
  )
}

const groups = (value: unknown) => (Array.isArray(value) ? value.map(renamed) : value)

type OldKey = { time: unknown; interpolation: string; values: number[] }
type OldChannel = { constant?: number[]; keys: OldKey[] }
type OldChannels = Record<string, OldChannel>

const constant = (value: unknown): OldChannel => ({ constant: [value as number], keys: [] })

/** A channel, unless it has no keys. */
const keyed = (name: string, keys: OldKey[]): OldChannels => (keys.length ? { [name]: { keys } } : {})

const shutterChannels = (shutter: unknown): OldChannels =>
  isFields(shutter) ? { shutterAngle: constant(shutter.angle), shutterPhase: constant(shutter.phase) } : {}

const EDGES = ['innerFeather', 'outerFeather', 'grow']

const edgeChannels = (edge: unknown): OldChannels =>
  isFields(edge) ? Object.fromEntries(EDGES.map((name) => [name, constant(edge[name])])) : {}

function partWithChannels(part: Fields): Fields {
  const { keys, depth, depthKeys, pin, shutter, ...rest } = part
  return {
    ...rest,
    pin: barePin(pin),
    hasOwnShutter: isFields(shutter),
    channels: {
      ...keyed('pose', fieldsIn(keys) as unknown as OldKey[]),
      ...keyed('pivot', pivotKeys(pin)),
      depth: { ...constant(depth), keys: depthsOf(depthKeys) },
      ...shutterChannels(shutter),
    },
  }
}

const barePin = (pin: unknown) => (isFields(pin) && pin.to === 'keys' ? { to: 'keys' } : (pin ?? null))

const pivotKeys = (pin: unknown): OldKey[] =>
  isFields(pin) && pin.to === 'keys'
    ? fieldsIn(pin.keys).map(({ frame, place }) => ({ time: frame, interpolation: 'linear', values: numbersIn(place) }))
    : []

const depthsOf = (keys: unknown): OldKey[] =>
  fieldsIn(keys).map(({ frame, depth }) => ({ time: frame, interpolation: 'hold', values: [depth as number] }))

const offsetKeys = (keys: unknown): OldKey[] =>
  fieldsIn(keys).map(({ frame, x, y }) => ({ time: frame, interpolation: 'linear', values: [x as number, y as number] })) // prettier-ignore

/** Leave-outs had no ids: their place in the list stands for one. */
function leaveOutChannels(leaveOut: unknown): { entries: Fields[]; channels: OldChannels } {
  const channels: OldChannels = {}
  const entries = fieldsIn(leaveOut).map((entry, i): Fields => {
    if (entry.kind !== 'outline') return entry
    const { keys, ...rest } = entry
    const outlines = fieldsIn(keys)
    channels[`leaveOut:${i}`] = rest.rides
      ? { constant: numbersIn(outlines[0]?.outline), keys: [] }
      : { keys: outlines.map(({ frame, outline }) => ({ time: frame, interpolation: 'linear', values: numbersIn(outline) })) } // prettier-ignore
    return { ...rest, id: String(i) }
  })
  return { entries, channels }
}

/** Patches of what is a channel now, and of what is left of the property. */
function fieldPatches(patch: Fields): Fields[] {
  const { id, field, before, after } = patch
  const channels = (of: (value: unknown) => OldChannels) => channelPatches(id, of(before), of(after))
  switch (field) {
    case 'edge':
      return channels(edgeChannels)
    case 'opacity':
      return channels((value) => ({ opacity: constant(value) }))
    case 'depth':
      return channels((value) => ({ depth: constant(value) }))
    case 'depthKeys':
      return channels((value) => keyed('depth', depthsOf(value)))
    case 'offset':
      return channels((value) => keyed('offset', offsetKeys(value)))
    case 'shutter': {
      const [had, has] = [isFields(before), isFields(after)]
      const own = had === has ? [] : [{ kind: 'field', id, field: 'hasOwnShutter', before: had, after: has }]
      return [...own, ...channels(shutterChannels)]
    }
    case 'pin':
      return [
        { kind: 'field', id, field: 'pin', before: barePin(before), after: barePin(after) },
        ...channels((pin) => keyed('pivot', pivotKeys(pin))),
      ]
    case 'leaveOut': {
      const [was, is] = [leaveOutChannels(before), leaveOutChannels(after)]
      return [
        { kind: 'field', id, field: 'leaveOut', before: was.entries, after: is.entries },
        ...channelPatches(id, was.channels, is.channels),
      ]
    }
    case 'movedPoints':
      return [{ ...patch, before: groups(before), after: groups(after) }]
    default:
      return [{ ...patch, field: NAMES[String(field)] ?? field }]
  }
}

/** What makes channels of one object into others: keys made before others are deleted. */
function channelPatches(id: unknown, before: OldChannels, after: OldChannels): Fields[] {
  const names = [...new Set([...Object.keys(before), ...Object.keys(after)])]
  return names.flatMap((channel): Fields[] => {
    const [was, is] = [before[channel], after[channel]]
    const constants =
      (was?.constant ?? is?.constant)
        ? [{ kind: 'constant', id, channel, before: was?.constant ?? null, after: is?.constant ?? null }]
        : []
    const [old, next] = [was?.keys ?? [], is?.keys ?? []]
    const keyAt = (keys: OldKey[], time: unknown) => keys.find((key) => key.time === time) ?? null
    const made = next.map((key) => ({ kind: 'key', id, channel, time: key.time, before: keyAt(old, key.time), after: key })) // prettier-ignore
    const gone = old.filter(({ time }) => !keyAt(next, time)).map((key) => ({ kind: 'key', id, channel, time: key.time, before: key, after: null })) // prettier-ignore
    const others = made.filter((patch) => !sameValue(patch.before, patch.after))
    // A patch that changed nothing stays one.
    return [...constants, ...(others.length || gone.length ? [...others, ...gone] : made)]
  })
}
