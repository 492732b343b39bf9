'use client'

import { useShallow } from 'zustand/react/shallow'
import { Select } from 'antd'
import { OPERATIONS, type Shape } from '@tender-lasso/core/document'
import { OPERATION_WORDS, setOperation } from '../../commands'
import { selectedShapes, useShot } from '../../store'
import { Row } from './Row'

/** What the selected shapes do to those of their Part that lie below them. */
export function OperationRow() {
  const shapes = selectedShapes(useShot(useShallow(({ document, selection }) => ({ document, selection }))))
  if (shapes.length === 0) return null
  const [first] = shapes
  const isMixed = shapes.some(({ operation }) => operation !== first!.operation)
  return (
    <Row
      label="Operation"
      help="What the selected shapes do to the shapes below them in the tree; Shift A makes holes of them, or of the next one drawn"
    >
      <Select<Shape['operation']>
        size="small"
        aria-label="Operation of the selected shapes"
        placeholder="mixed"
        value={isMixed ? undefined : first!.operation}
        options={OPERATIONS.map((value) => ({
          value,
          label: `${OPERATION_WORDS[value].sign} ${OPERATION_WORDS[value].label}`,
          title: OPERATION_WORDS[value].help,
        }))}
        onChange={(operation) => setOperation(shapes, operation)}
      />
    </Row>
  )
}
