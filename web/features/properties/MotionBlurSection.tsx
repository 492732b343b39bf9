'use client'

import { Switch } from 'antd'
import { fieldSet } from '@tender-lasso/core/edits'
import { find, type Part } from '@tender-lasso/core/document'
import { centredShutter } from '@tender-lasso/core/timing'
import { edit, useShot } from '../../state/shotStore'
import { NumberField } from './NumberField'
import { Row } from './Row'

/** The shutter of the shot, or an own one of this Part. */
export function MotionBlurSection({ part }: { part: Part }) {
  const shot = useShot((state) => find(state.document, 'shot', 'shot'))
  if (!shot) return null
  const shutter = part.shutter ?? shot.shutter
  const set = (next: { angle: number; phase: number }) => {
    if (part.shutter) edit('set the shutter of the Part', [fieldSet(part, 'shutter', next)])
    else edit('set the shutter of the shot', [fieldSet(shot, 'shutter', next)])
  }
  return (
    <>
      <Row label="Own shutter" help="Off: the shot's shutter, shared by all Parts">
        <Switch
          size="small"
          checked={part.shutter !== null}
          onChange={(own) =>
            edit(own ? 'give the Part its own shutter' : "use the shot's shutter", [
              fieldSet(part, 'shutter', own ? shot.shutter : null),
            ])
          }
        />
      </Row>
      <Row
        label="Angle"
        help="How long the shutter is open: 360 degrees is the whole frame, 180 half of it, 0 no motion blur"
      >
        <NumberField
          label="Shutter angle"
          value={shutter.angle}
          unit="°"
          min={0}
          max={720}
          step={5}
          onCommit={(angle) =>
            set(shutter.phase === -shutter.angle / 2 ? centredShutter(angle) : { ...shutter, angle })
          }
        />
      </Row>
      <Row label="Phase" help="When the shutter opens, relative to the frame; minus half the angle is centred on it">
        <NumberField
          label="Shutter phase"
          value={shutter.phase}
          unit="°"
          min={-720}
          max={720}
          step={5}
          onCommit={(phase) => set({ ...shutter, phase })}
        />
      </Row>
    </>
  )
}
