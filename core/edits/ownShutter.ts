import { channelOf, type Part, type Patch } from '../document'
import type { Shutter } from '../timing'
import { constantSet } from './constants'
import { fieldSet } from './objects'

/** A Part gets a shutter of its own; it begins as one given, unless the Part has keys of one that it had before. */
export function ownShutterBegun(part: Part, { angle, phase }: Shutter): Patch[] {
  return [
    fieldSet(part, 'hasOwnShutter', true),
    ...Object.entries({ shutterAngle: angle, shutterPhase: phase }).flatMap(([name, value]) => {
      const channel = channelOf(part, name)
      return channel.keys.length ? [] : constantSet(channel, [value])
    }),
  ]
}
