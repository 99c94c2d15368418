import { useVirtualizer } from '@tanstack/react-virtual'
import { type ReactNode, useLayoutEffect, useRef, useState } from 'react'

/** So many rows are simply there: found by the browser's own search, and printed. */
const SIMPLY = 200
/** What a row of two lines takes, px: where none was drawn yet. */
const GUESS = 53

type Body<R> = {
  rows: R[]
  id: (row: R) => number | string
  columns: number
  /** The cells of a row. */
  children: (row: R) => ReactNode
}

/** The body of a table that may be long: of thousands of rows only those in sight are drawn, and scrolling is as that of a few. */
export function LongBody<R>(props: Body<R>) {
  const { rows, id, children } = props
  if (rows.length > SIMPLY) return <InSight {...props} />
  return (
    <tbody>
      {rows.map((x) => (
        <tr key={id(x)}>{children(x)}</tr>
      ))}
    </tbody>
  )
}

function InSight<R>({ rows, id, columns, children }: Body<R>) {
  const body = useRef<HTMLTableSectionElement>(null)
  const [scrolls, setScrolls] = useState<HTMLElement | null>(null)
  const [above, setAbove] = useState(0)
  useLayoutEffect(() => {
    const mine = body.current
    const found = mine && scrolling(mine)
    if (!found) return
    setScrolls(found)
    setAbove(Math.round(mine.getBoundingClientRect().top - found.getBoundingClientRect().top + found.scrollTop))
  }, [rows])
  // eslint-disable-next-line react-hooks/incompatible-library -- what is asked of it is asked anew each time it is drawn
  const drawn = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scrolls,
    estimateSize: () => GUESS,
    getItemKey: (n) => id(rows[n] as R),
    scrollMargin: above,
    overscan: 12,
  })
  const parts = drawn.getVirtualItems()
  const [first, last] = [parts[0], parts[parts.length - 1]]
  const before = first ? first.start - above : 0
  const after = last ? drawn.getTotalSize() - (last.end - above) : 0
  return (
    <tbody ref={body}>
      <Room px={before} columns={columns} />
      {parts.map((part) => (
        <tr key={part.key} ref={drawn.measureElement} data-index={part.index} aria-rowindex={part.index + 2}>
          {children(rows[part.index] as R)}
        </tr>
      ))}
      <Room px={after} columns={columns} />
    </tbody>
  )
}

/** Where rows would stand that are not drawn. */
const Room = ({ px, columns }: { px: number; columns: number }) =>
  px > 0 && (
    <tr aria-hidden>
      <td colSpan={columns} style={{ height: px, padding: 0, border: 0 }} />
    </tr>
  )

/** What scrolls a part of the page. */
function scrolling(of: HTMLElement): HTMLElement {
  for (let up = of.parentElement; up; up = up.parentElement)
    if (/auto|scroll/.test(getComputedStyle(up).overflowY)) return up
  return document.documentElement
}
