'use client'

import type { ReactNode } from 'react'
import { DndContext, PointerSensor, useSensor, useSensors, type CollisionDetection, type DragEndEvent } from '@dnd-kit/core' // prettier-ignore
import { SortableContext, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable'
import { GripVertical } from 'lucide-react'
import styles from './subjects.module.css'

interface SortableRowsProps<Item extends { id: string }> {
  items: readonly Item[]
  /** What the grip of an item is called. */
  gripLabel(item: Item): string
  /** An item was let go at another place. */
  onMoved(id: string, index: number): void
  children(item: Item, handle: ReactNode): ReactNode
}

/** Rows that are dragged to another place by their grips. */
export function SortableRows<Item extends { id: string }>(props: SortableRowsProps<Item>) {
  const { items, gripLabel, onMoved, children } = props
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 4 } }))
  const dropped = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return
    onMoved(
      String(active.id),
      items.findIndex(({ id }) => id === over.id),
    )
  }
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={rowUnderPointer}
      // What is said to those who listen stands outside of the grid, which may hold rows only.
      accessibility={{ container: document.body }}
      onDragEnd={dropped}
    >
      <SortableContext items={items.map(({ id }) => id)} strategy={verticalListSortingStrategy}>
        {items.map((item) => (
          <SortableRow key={item.id} id={item.id} gripLabel={gripLabel(item)}>
            {(handle) => children(item, handle)}
          </SortableRow>
        ))}
      </SortableContext>
    </DndContext>
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

interface SortableRowProps {
  id: string
  gripLabel: string
  children(handle: ReactNode): ReactNode
}

function SortableRow({ id, gripLabel, children }: SortableRowProps) {
  const { attributes, listeners, setNodeRef, transform, isDragging } = useSortable({ id })
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
      {children(
        <span className={styles.grip} {...attributes} {...listeners} aria-label={gripLabel}>
          <GripVertical size={12} />
        </span>,
      )}
    </div>
  )
}
