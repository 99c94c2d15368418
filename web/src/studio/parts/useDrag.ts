import { type DragEvent, useState } from 'react'

/** Drag and drop among things of one kind. */
export function useDrag(kind: string, path: string, on: boolean, dropped: (path: string) => void) {
  const [dragged, setDragged] = useState(false)
  const type = `text/${kind.replace(/[^a-z0-9]+/gi, '-').toLowerCase()}`
  if (!on) return {}
  return {
    draggable: true,
    style: dragged ? { opacity: 0.4 } : undefined,
    onDragStart: (e: DragEvent) => {
      e.stopPropagation()
      e.dataTransfer.setData(type, path)
      setDragged(true)
    },
    onDragEnd: () => setDragged(false),
    onDragOver: (e: DragEvent) => e.dataTransfer.types.includes(type) && e.preventDefault(),
    onDrop: (e: DragEvent) => {
      const from = e.dataTransfer.getData(type)
      if (from && from !== path) dropped(from)
    },
  }
}
