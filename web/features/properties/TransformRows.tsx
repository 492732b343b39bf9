'use client'

import { useShallow } from 'zustand/react/shallow'
import { Button } from 'antd'
import { linearAbout, rotationAbout, translation, type Box, type Matrix3 } from '@tender-lasso/core/geometry'
import { channelOf } from '@tender-lasso/core/document'
import { mirrorSelected, editReaching, keyingNow } from '../../commands'
import { useShot } from '../../store'
import { ownPivotOfChosen, selectedBox, chosenShapes, mapPatches } from '../../selection'
import { KeyKnot } from './KeyKnot'
import { NumberField } from './NumberField'
import { Row } from './Row'
import styles from './properties.module.css'

/** Place and size of what is selected, as numbers; turned, skewed and mirrored about the pivot or its own middle. */
export function TransformRows() {
  const { document, frame, selection, pivot } = useShot(
    useShallow(({ document, frame, selection, pivot }) => ({ document, frame, selection, pivot })),
  )
  const box = selectedBox({ document, frame, selection })
  if (!box) return null
  const middle = [(box.left + box.right) / 2, (box.top + box.bottom) / 2] as const
  const about = pivot ?? ownPivotOfChosen({ document, frame, selection }) ?? middle
  const place = (label: string, value: number, map: (to: number) => Matrix3) => (
    <NumberField
      label={label}
      value={value}
      min={-99999}
      max={99999}
      step={1}
      decimals={1}
      onCommit={(to) => apply(label, map(to))}
    />
  )
  const outlines = chosenShapes({ document, selection }).map((shape) => channelOf(shape))
  const knot = (label: string) => <KeyKnot label={`${label} of the outline`} channels={outlines} />
  const stretched = (fx: number, fy: number) => linearAbout(box.left, box.top, fx, 0, 0, fy)
  return (
    <>
      <Row label="Place x, y" knot={knot('Place')} help="Of the middle of what is selected, plate pixels">
        <span className={styles.pair}>
          {place('Middle x', middle[0], (x) => translation(x - middle[0], 0))}
          {place('Middle y', middle[1], (y) => translation(0, y - middle[1]))}
        </span>
      </Row>
      <Row label="Size w, h" knot={knot('Size')} help="Across and down, plate pixels">
        <span className={styles.pair}>
          {place('Width', box.right - box.left, (w) => stretched(share(w, box, 'x'), 1))}
          {place('Height', box.bottom - box.top, (h) => stretched(1, share(h, box, 'y')))}
        </span>
      </Row>
      <Row label="Rotate, skew by" help="About the pivot (Turn, one click), or the middle">
        <span className={styles.pair}>
          <NumberField
            label="Rotate by"
            value={0}
            min={-3600}
            max={3600}
            step={1}
            decimals={1}
            unit="°"
            onCommit={(degrees) => apply('Rotate', rotationAbout(radians(degrees), ...about))}
          />
          <NumberField
            label="Skew by"
            value={0}
            min={-80}
            max={80}
            step={1}
            decimals={1}
            unit="°"
            onCommit={(degrees) => apply('Skew', linearAbout(...about, 1, Math.tan(radians(degrees)), 0, 1))}
          />
        </span>
      </Row>
      <div className={styles.row}>
        <span>Mirror</span>
        <span className={styles.buttons}>
          <Button size="small" onClick={() => mirrorSelected('upright')} title="About an upright line">
            ◂▸
          </Button>
          <Button size="small" onClick={() => mirrorSelected('level')} title="About a level line">
            ▴▾
          </Button>
          <Button
            size="small"
            onClick={() => mirrorSelected('part')}
            title="About the line from the Part's pivot to that of the Part it carries"
          >
            Part
          </Button>
        </span>
      </div>
    </>
  )
}

/** A width or height of nothing cannot be scaled. */
function share(to: number, box: Box, axis: 'x' | 'y'): number {
  const now = axis === 'x' ? box.right - box.left : box.bottom - box.top
  return now > 1e-6 && to > 1e-3 ? to / now : 1
}

const radians = (degrees: number) => (degrees * Math.PI) / 180

function apply(label: string, map: Matrix3) {
  const state = useShot.getState()
  const { document, frame, selection, editing } = state
  const shapes = chosenShapes({ document, selection })
  const context = { document, frame, keying: keyingNow(state), softness: editing.softness }
  editReaching(label.toLowerCase(), mapPatches(context, shapes, selection.pointIds, map))
}
