'use client'

import { Eye, EyeOff } from 'lucide-react'
import { fieldSet, shapeReordered } from '@tender-lasso/core/edits'
import { OPERATIONS, type Part, type RotoDocument, type Shape } from '@tender-lasso/core/document'
import { isHidden, shapesOf } from '@tender-lasso/core/evaluation'
import { OPERATION_WORDS, setOperation } from '../../commands'
import { select, useShot } from '../../store'
import { edit } from '../../session'
import { NameInPlace } from './NameInPlace'
import { RowButton } from './RowButton'
import { SortableRows } from './SortableRows'
import styles from './subjects.module.css'

/** Shapes of a Part, the topmost first: what each does to those below it; dragged, they change places. */
export function ShapeRows({ document, part, level }: { document: RotoDocument; part: Part; level: number }) {
  const shapes = shapesOf(document, part.id).toReversed()
  return (
    <SortableRows
      items={shapes}
      gripLabel={({ name }) => `Drag ${name} above or below`}
      onMoved={(id, index) => edit(`order of the shapes of ${part.name}`, shapeReordered(document, id, index))}
    >
      {(shape, handle) => <ShapeRow shape={shape} level={level} handle={handle} />}
    </SortableRows>
  )
}

function ShapeRow({ shape, level, handle }: { shape: Shape; level: number; handle: React.ReactNode }) {
  const isSelected = useShot((state) => state.selection.shapeIds.includes(shape.id))
  const isHiddenHere = useShot((state) => isHidden(shape, state.frame))
  const { label, sign, help } = OPERATION_WORDS[shape.operation]
  const next = OPERATIONS[(OPERATIONS.indexOf(shape.operation) + 1) % OPERATIONS.length]!
  return (
    <div
      role="row"
      tabIndex={0}
      aria-level={level}
      aria-label={shape.name}
      aria-selected={isSelected}
      data-id={shape.id}
      data-shape={shape.name}
      className={`${isSelected ? styles.rowSelected : styles.row} ${isHiddenHere ? styles.archived : ''}`}
      style={{ paddingLeft: 10 + (level - 1) * 14 }}
      onClick={() => chooseShape(shape)}
    >
      <span role="gridcell" className={styles.cells}>
        {handle}
        <button
          type="button"
          className={styles.operation}
          title={`${label}: ${help}. Click for ${OPERATION_WORDS[next].label}`}
          aria-label={`${shape.name}: ${label}`}
          onClick={(event) => {
            event.stopPropagation()
            setOperation([shape], next)
          }}
        >
          {sign}
        </button>
        <NameInPlace value={shape.name} onCommit={(name) => edit(`name ${name}`, [fieldSet(shape, 'name', name)])} />
        <RowButton
          label={shape.visible ? 'Hide' : 'Show'}
          isOn={!shape.visible}
          onPress={() =>
            edit(`${shape.visible ? 'hide' : 'show'} ${shape.name}`, [fieldSet(shape, 'visible', !shape.visible)])
          }
        >
          {shape.visible ? <Eye size={12} /> : <EyeOff size={12} />}
        </RowButton>
      </span>
    </div>
  )
}

export const chooseShape = ({ id, partId }: Shape) =>
  select({ partId, shapeIds: [id], pointIds: new Set(), trackIds: [], keys: [] })
