'use client'

import {
  DndContext,
  PointerSensor,
  useSensor,
  useSensors,
  type CollisionDetection,
  type DragEndEvent,
} from '@dnd-kit/core'
import { SortableContext, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable'
import { GripVertical } from 'lucide-react'
import { findObject, type Part } from '@tender-lasso/core/document'
import { partReordered } from '@tender-lasso/core/edits'
import { partsByDepth } from '@tender-lasso/core/evaluation'
import { useShot } from '../../store'
import { edit } from '../../session'
import { choosePart, PartRow } from './PartRow'
import { walkRows } from './walkRows'
import styles from './subjects.module.css'

/** All Parts in one flat list, nearest first; dragging a row changes what stands in front of what. */
export function DepthList() {
  const document = useShot((state) => state.document)
  const frame = useShot((state) => state.frame)
  const parts = partsByDepth(document, frame)
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 4 } }))
  const dropped = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return
    const index = parts.findIndex((part) => part.id === over.id)
    const name = findObject(document, 'part', String(active.id))?.name ?? ''
    edit(`move ${name} in depth`, partReordered(document, String(active.id), index, frame))
  }
  if (parts.length === 0) return <p className={styles.empty}>No Parts yet. The nearest will stand at the top.</p>
  return (
    <>
      <div className={styles.edgeWord}>nearest</div>
      <DndContext sensors={sensors} collisionDetection={rowUnderPointer} onDragEnd={dropped}>
        <SortableContext items={parts.map((part) => part.id)} strategy={verticalListSortingStrategy}>
          <div
            role="grid"
            className={styles.dragged}
            aria-label="Parts by depth"
            onKeyDown={(event) => walkRows(event, choosePart)}
          >
            {parts.map((part) => (
              <DepthRow
                key={part.id}
                part={part}
                subject={findObject(document, 'subject', part.subjectId)?.name ?? ''}
              />
            ))}
          </div>
        </SortableContext>
      </DndContext>
      <div className={styles.edgeWord}>farthest</div>
    </>
  )
}

/** The row whose middle is nearest to the pointer: the dragged row's own box is lost when the list scrolls beneath it. */
const rowUnderPointer: CollisionDetection = ({ droppableContainers, droppableRects, pointerCoordinates }) => {
  if (!pointerCoordinates) return []
  const away = (id: string | number) => {
    const rect = droppableRects.get(id)
    return rect ? Math.abs(rect.top + rect.height / 2 - pointerCoordinates.y) : Infinity
  }
  const [nearest] = droppableContainers.map(({ id }) => id).sort((a, b) => away(a) - away(b))
  return nearest === undefined ? [] : [{ id: nearest }]
}

function DepthRow({ part, subject }: { part: Part; subject: string }) {
  const { attributes, listeners, setNodeRef, transform, isDragging } = useSortable({ id: part.id })
  return (
    <div
      ref={setNodeRef}
      role="presentation"
      style={{
        transform: transform ? `translateY(${transform.y}px)` : undefined,
        zIndex: isDragging ? 1 : 0,
        position: 'relative',
      }}
    >
      <PartRow
        part={part}
        note={subject}
        handle={
          <span
            className={styles.grip}
            {...attributes}
            {...listeners}
            aria-label={`Drag ${part.name} nearer or farther`}
          >
            <GripVertical size={12} />
          </span>
        }
      />
    </div>
  )
}
