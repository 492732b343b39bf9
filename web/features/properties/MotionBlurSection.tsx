'use client'

import { Switch } from 'antd'
import { constantSet, fieldSet, numberChanged, type NumberChange } from '@tender-lasso/core/edits'
import { channelOf, find, type Part, type Patch } from '@tender-lasso/core/document'
import { partShutter, shotShutter } from '@tender-lasso/core/evaluation'
import type { Shutter } from '@tender-lasso/core/timing'
import { edit, useShot } from '../../state/shotStore'
import { ChannelRow } from './ChannelRow'
import { Row } from './Row'

/** The shutter of the shot, or own ones of the selected Parts. */
export function MotionBlurSection({ part }: { part: Part }) {
  const document = useShot((state) => state.document)
  const frame = useShot((state) => state.frame)
  const shot = find(document, 'shot', 'shot')
  if (!shot) return null
  const owner = part.hasOwnShutter ? part : shot
  const { angle, phase } = partShutter(document, part, frame)
  const phaseChannel = channelOf(owner, 'shutterPhase')
  const isCentred = phase === -angle / 2
  return (
    <>
      <Row label="Own shutter" help="Off: the shot's shutter, shared by all Parts">
        <Switch
          size="small"
          checked={part.hasOwnShutter}
          onChange={(isOwn) =>
            edit(
              isOwn ? 'give the Part its own shutter' : "use the shot's shutter",
              ownShutterSet(part, isOwn, shotShutter(document, frame)),
            )
          }
        />
      </Row>
      <ChannelRow
        label="Shutter angle"
        help="How long the shutter is open: 360 degrees is the whole frame, 180 half of it, 0 no motion blur"
        channels={[channelOf(owner, 'shutterAngle')]}
        min={0}
        max={720}
        step={5}
        // A shutter whose middle is on the frame stays so: its phase is minus half its angle.
        along={(change, how) => (isCentred ? numberChanged(phaseChannel, 0, halvedBack(change), frame, how) : [])}
        keyedAlong={isCentred ? [phaseChannel] : []}
      />
      <ChannelRow
        label="Shutter phase"
        help="When the shutter opens, relative to the frame; minus half the angle is centred on it"
        channels={[phaseChannel]}
        min={-720}
        max={720}
        step={5}
      />
    </>
  )
}

const halvedBack = ({ kind, by }: NumberChange): NumberChange => ({ kind, by: kind === 'multiply' ? by : -by / 2 })

/** A Part's own shutter begins as the shot's, unless it had one before. */
function ownShutterSet(part: Part, isOwn: boolean, { angle, phase }: Shutter): Patch[] {
  const own = fieldSet(part, 'hasOwnShutter', isOwn)
  if (!isOwn) return [own]
  const begun = { shutterAngle: angle, shutterPhase: phase }
  return [
    own,
    ...Object.entries(begun).flatMap(([name, value]) => {
      const channel = channelOf(part, name)
      return channel.keys.length ? [] : constantSet(channel, [value])
    }),
  ]
}
