'use client'

import { useShallow } from 'zustand/react/shallow'
import { Switch } from 'antd'
import { fieldSet, numberChanged, ownShutterBegun, type NumberChange } from '@tender-lasso/core/edits'
import { channelOf, findObject, type Part } from '@tender-lasso/core/document'
import { partShutter, shotShutter } from '@tender-lasso/core/evaluation'
import { selectedShapes, useShot } from '../../store'
import { edit } from '../../session'
import { BlurWeightRow } from './BlurWeightRow'
import { ChannelRow } from './ChannelRow'
import { PlateShutterRows } from './PlateShutterRows'
import { Row } from './Row'

/** The shutter of the shot, or own ones of the selected Parts: of that which is selected, and of those of selected shapes. */
export function MotionBlurSection({ part }: { part: Part }) {
  const document = useShot((state) => state.document)
  const frame = useShot((state) => state.frame)
  const shapes = useShot(useShallow((state) => selectedShapes(state)))
  const shot = findObject(document, 'shot', 'shot')
  if (!shot) return null
  const ids = new Set([part.id, ...shapes.map(({ partId }) => partId)])
  const parts = [...ids].flatMap((id) => findObject(document, 'part', id) ?? [])
  const own = parts.filter(({ hasOwnShutter }) => hasOwnShutter)
  const owners = part.hasOwnShutter ? own : [shot]
  const { angle, phase } = partShutter(document, part, frame)
  const phases = owners.map((owner) => channelOf(owner, 'shutterPhase'))
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
              parts
                .filter(({ hasOwnShutter }) => hasOwnShutter !== isOwn)
                .flatMap((one) =>
                  isOwn ? ownShutterBegun(one, shotShutter(document, frame)) : [fieldSet(one, 'hasOwnShutter', false)],
                ),
            )
          }
        />
      </Row>
      <ChannelRow
        label="Shutter angle"
        help="How long the shutter is open: 360 degrees is the whole frame, 180 half of it, 0 no motion blur"
        channels={owners.map((owner) => channelOf(owner, 'shutterAngle'))}
        min={0}
        max={720}
        step={5}
        // A shutter whose middle is on the frame stays so: its phase is minus half its angle.
        along={(change, how) =>
          isCentred ? phases.flatMap((one) => numberChanged(one, 0, halvedBack(change), frame, how)) : []
        }
        keyedAlong={isCentred ? phases : []}
      />
      <ChannelRow
        label="Shutter phase"
        help="When the shutter opens, relative to the frame; minus half the angle is centred on it"
        channels={phases}
        min={-720}
        max={720}
        step={5}
      />
      {shapes.length > 0 && (
        <Row label="Shapes move" help="Off: the selected shapes are as they lie at the middle of the shutter">
          <Switch
            size="small"
            checked={shapes.every(({ motionBlur }) => motionBlur)}
            onChange={(motionBlur) =>
              edit(
                motionBlur ? 'motion blur of shapes' : 'no motion blur of shapes',
                shapes
                  .filter((shape) => shape.motionBlur !== motionBlur)
                  .map((shape) => fieldSet(shape, 'motionBlur', motionBlur)),
              )
            }
          />
        </Row>
      )}
      <BlurWeightRow shapes={shapes} />
      <PlateShutterRows />
    </>
  )
}

const halvedBack = ({ kind, by }: NumberChange): NumberChange => ({ kind, by: kind === 'multiply' ? by : -by / 2 })
