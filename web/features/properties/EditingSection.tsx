'use client'

import { Switch } from 'antd'
import { setEditing, importSvg } from '../../commands'
import { useShot } from '../../store'
import { NumberField } from './NumberField'
import { ReadTextButton } from './ReadTextButton'
import { Row } from './Row'
import styles from './properties.module.css'

/** How edits are made: what they key, how far they go, what they catch on. */
export function EditingSection() {
  const editing = useShot((state) => state.editing)
  return (
    <>
      <Row label="Edits make keys" help="Off: a frame without a key is not changed by accident; K makes one">
        <Switch size="small" checked={editing.makesKeys} onChange={(makesKeys) => setEditing({ makesKeys })} />
      </Row>
      <Row
        label="Only points touched"
        help="A new key holds the points that the edit moves; the others run on between their own keys"
      >
        <Switch size="small" checked={editing.onlyTouched} onChange={(onlyTouched) => setEditing({ onlyTouched })} />
      </Row>
      <Row label="Soft selection" help="Points so near to selected ones go along, less the farther; filled by as much">
        <NumberField
          label="Soft selection, pixels"
          value={editing.softness}
          min={0}
          max={2000}
          step={2}
          unit="px"
          onCommit={(softness) => setEditing({ softness })}
        />
      </Row>
      <Row label="Span fades over" help="Frames on both sides of the marked stretch over which an edit by Span fades">
        <NumberField
          label="Span fades over, frames"
          value={editing.spanFalloff}
          min={0}
          max={200}
          step={1}
          unit="fr"
          onCommit={(spanFalloff) => setEditing({ spanFalloff })}
        />
      </Row>
      <Row
        label="Snapping"
        help="A dragged point catches on other points, on guides (Alt G, Alt Shift G at the pointer), on the edges and the middle lines of the frame"
      >
        <Switch size="small" checked={editing.snaps} onChange={(snaps) => setEditing({ snaps })} />
      </Row>
      <div className={styles.row}>
        <span>Outlines from SVG</span>
        <ReadTextButton
          words="Choose a file"
          title="Also by dropping the file on the picture, or pasting its text"
          label="SVG file"
          accept=".svg,image/svg+xml"
          onText={importSvg}
        />
      </div>
    </>
  )
}
