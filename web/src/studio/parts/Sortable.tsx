import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors } from '@dnd-kit/core'
import {
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  rectSortingStrategy,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable'
import { type ComponentProps, type CSSProperties, type ReactNode, useMemo } from 'react'

/** Rows whose order is changed by dragging the number before them: by mouse, by touch, or by Space and the arrows. */
export function Sortable({
  ids,
  called,
  moved,
  grid,
  children,
}: {
  ids: string[]
  called: string
  grid?: boolean
  moved: (from: number, to: number) => void
  children: ReactNode
}) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }), // a click on the number is no move
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  )
  const named = ids.join('\n')
  const items = useMemo(() => named.split('\n'), [named]) // rows look at it: it changes when they do
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
      <SortableContext items={items} strategy={grid ? rectSortingStrategy : verticalListSortingStrategy}>
        {children}
      </SortableContext>
    </DndContext>
  )
}

/** How something is drawn while it, or another, is moved. */
export function moveStyle(
  to: { x: number; y: number } | null,
  transition: string | undefined,
  dragged: boolean,
): CSSProperties | undefined {
  if (!to) return undefined
  return {
    transform: `translate3d(${Math.round(to.x)}px, ${Math.round(to.y)}px, 0)`,
    transition,
    position: 'relative',
    zIndex: dragged ? 5 : undefined,
    opacity: dragged ? 0.7 : undefined,
  }
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
  return (
    <li
      id={id}
      ref={setNodeRef}
      style={moveStyle(transform && { ...transform, x: 0 }, transition, isDragging)}
      {...row}
    >
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
