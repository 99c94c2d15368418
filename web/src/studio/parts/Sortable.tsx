import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors } from '@dnd-kit/core'
import {
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable'
import type { ComponentProps, CSSProperties, ReactNode } from 'react'

/** Rows whose order is changed by dragging the number before them: by mouse, by touch, or by Space and the arrows. */
export function Sortable({
  ids,
  called,
  moved,
  children,
}: {
  ids: string[]
  called: string
  moved: (from: number, to: number) => void
  children: ReactNode
}) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }), // a click on the number is no move
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  )
  const place = (id: unknown) => ids.indexOf(String(id)) + 1
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={closestCenter}
      onDragEnd={({ active, over }) => {
        if (over && over.id !== active.id) moved(place(active.id) - 1, place(over.id) - 1)
      }}
      accessibility={{
        screenReaderInstructions: {
          draggable: `Space takes the ${called.toLowerCase()} up, the arrows move it, Space puts it down, Escape leaves it.`,
        },
        announcements: {
          onDragStart: ({ active }) => `${called} ${place(active.id)} is taken up.`,
          onDragOver: ({ over }) => (over ? `It would become ${called.toLowerCase()} ${place(over.id)}.` : undefined),
          onDragEnd: ({ over }) => (over ? `It is ${called.toLowerCase()} ${place(over.id)}.` : 'It stays.'),
          onDragCancel: () => 'It stays where it was.',
        },
      }}
    >
      <SortableContext items={ids} strategy={verticalListSortingStrategy}>
        {children}
      </SortableContext>
    </DndContext>
  )
}

/** One row of it, held by its number. */
export function SortableRow({
  id,
  n,
  called,
  on,
  children,
  ...row
}: ComponentProps<'li'> & { id: string; n: number; called: string; on: boolean }) {
  const { setNodeRef, setActivatorNodeRef, attributes, listeners, transform, transition, isDragging } = useSortable({
    id,
    disabled: !on,
  })
  const style: CSSProperties | undefined = transform
    ? {
        transform: `translate3d(0, ${Math.round(transform.y)}px, 0)`,
        transition,
        position: 'relative',
        zIndex: isDragging ? 5 : undefined,
        opacity: isDragging ? 0.7 : undefined,
      }
    : undefined
  return (
    <li id={id} ref={setNodeRef} style={style} {...row}>
      {on ? (
        <span
          ref={setActivatorNodeRef}
          className="no hold"
          {...attributes}
          {...listeners}
          aria-label={`Move ${called.toLowerCase()} ${n + 1}`}
        >
          {n + 1}
        </span>
      ) : (
        <span className="no">{n + 1}</span>
      )}
      {children}
    </li>
  )
}
