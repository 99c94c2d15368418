import type { Shape } from '../../shared/client'
import type { Label, Line, Spot } from '../parts/mapScene'
import type { Cells } from './Tables'

export type Layout = Shape['LayoutView']
export type Aisle = Shape['AisleView']
export type Kind = 'cross_aisle' | 'one_way' | 'dead_end' | 'goes_through' | 'blocked'
/** What lies over the map. */
export type Drawn = { lines: Line[]; tags: Label[] }
/** What becomes of a stroke over the map, and of a click, which says whether it met anything within so many mm. */
export type Hands = {
  stroke: ((from: Spot, to: Spot, done: boolean) => void) | null
  touch: ((at: Spot, within: number) => boolean) | null
}
export const IDLE: Hands = { stroke: null, touch: null }
export const NOTHING: Drawn = { lines: [], tags: [] }

const STEP = 100 // what is drawn by hand snaps to the decimetre
const snapped = (mm: number) => Math.round(mm / STEP) * STEP
const number = (cells: Cells, name: string) => (cells[name] ? Number(cells[name]) : null)
export const aisleKey = (a: { zone: string; name: string }) => `${a.zone} ${a.name}`
export const onward = (heading: string) => heading === 'north' || heading === 'east'

/** A place along an aisle or cross aisle, and across it, as a spot. */
function on(axis: string, along: number, across: number): Spot {
  return axis === 'x' ? [along, across] : [across, along]
}

/** The next cross aisle beyond an end of an aisle, along its axis. */
function beyond(layout: Layout, aisle: Aisle, heading: string): number | null {
  const meets = layout.crosses
    .filter(
      (c) =>
        c.axis !== aisle.axis && (c.spans.length === 0 || c.spans.some((s) => s.low <= aisle.at && aisle.at <= s.high)),
    )
    .map((c) => c.at)
  const found = onward(heading) ? meets.filter((m) => m >= aisle.high) : meets.filter((m) => m <= aisle.low)
  if (found.length === 0) return null
  return onward(heading) ? Math.min(...found) : Math.max(...found)
}

const BAR = 1_100 // half of the bar at a dead end

/** What a fact looks like on the map. */
export function picture(layout: Layout, cells: Cells, colour: string, wide: { low: number; high: number }): Drawn {
  const kind = cells.kind as Kind
  const at = number(cells, 'at_mm')
  const [from, to] = [number(cells, 'from_mm'), number(cells, 'to_mm')]
  if (cells.axis && at !== null) {
    const line: Spot[] = [on(cells.axis, from ?? wide.low, at), on(cells.axis, to ?? wide.high, at)]
    if (kind === 'blocked') return { lines: [{ spots: line, colour, width: 6, dash: [3, 4], cased: true }], tags: [] }
    const spots = cells.heading && !onward(cells.heading) ? line.reverse() : line
    return { lines: [{ spots, colour, width: 3, arrows: !!cells.heading, cased: true }], tags: [] }
  }
  const aisle = layout.aisles.find((a) => a.zone === cells.zone && a.name === cells.aisle)
  if (!aisle) return NOTHING
  const heading = cells.heading ?? ''
  if (kind === 'blocked') {
    if (from === null || to === null) return NOTHING
    const spots = [on(aisle.axis, from, aisle.at), on(aisle.axis, to, aisle.at)]
    return { lines: [{ spots, colour, width: 8, dash: [3, 4], cased: true }], tags: [] }
  }
  if (kind === 'one_way') {
    const spots = [on(aisle.axis, aisle.low, aisle.at), on(aisle.axis, aisle.high, aisle.at)]
    return {
      lines: [{ spots: onward(heading) ? spots : spots.reverse(), colour, width: 2.5, arrows: true, cased: true }],
      tags: [],
    }
  }
  const end = onward(heading) ? aisle.high : aisle.low
  if (kind === 'dead_end') {
    const past = end + (onward(heading) ? 900 : -900)
    const spots = [on(aisle.axis, past, aisle.at - BAR), on(aisle.axis, past, aisle.at + BAR)]
    return { lines: [{ spots, colour, width: 4, cased: true }], tags: [] }
  }
  const next = beyond(layout, aisle, heading)
  if (next === null) return NOTHING
  const spots = [on(aisle.axis, end, aisle.at), on(aisle.axis, next, aisle.at)]
  return { lines: [{ spots, colour, width: 2, dash: [6, 5], arrows: true, cased: true }], tags: [] }
}

/** The aisle nearest to a spot, and where along it that is. */
function nearestAisle(layout: Layout, [x, y]: Spot): { aisle: Aisle; along: number; far: number } | null {
  let best: { aisle: Aisle; along: number; far: number } | null = null
  for (const aisle of layout.aisles) {
    const [along, across] = aisle.axis === 'x' ? [x, y] : [y, x]
    const past = Math.max(aisle.low - along, along - aisle.high, 0)
    const far = Math.abs(across - aisle.at) + past
    if (!best || far < best.far) best = { aisle, along, far }
  }
  return best
}

/** A stroke over the map as a fact of a kind. What the stroke does not say is kept as it was. */
export function sketched(layout: Layout, kind: Kind, before: Cells, from: Spot, to: Spot): Cells {
  const [dx, dy] = [to[0] - from[0], to[1] - from[1]]
  if (kind === 'cross_aisle') {
    const axis = Math.abs(dx) >= Math.abs(dy) ? 'x' : 'y'
    const at = String(snapped(axis === 'x' ? from[1] : from[0]))
    const ends = axis === 'x' ? [from[0], to[0]] : [from[1], to[1]]
    const moved = Math.abs(dx) + Math.abs(dy) > 0
    return {
      ...before,
      axis: moved ? axis : before.axis || 'x',
      at_mm: moved ? at : String(snapped((before.axis || 'x') === 'x' ? from[1] : from[0])),
      ...(moved ? { from_mm: String(snapped(Math.min(...ends))), to_mm: String(snapped(Math.max(...ends))) } : {}),
    }
  }
  const near = nearestAisle(layout, from)
  if (kind === 'blocked') {
    const cross = layout.crosses
      .map((c) => ({ c, far: Math.abs((c.axis === 'x' ? from[1] : from[0]) - c.at) }))
      .sort((a, b) => a.far - b.far)[0]
    if (cross && (!near || cross.far < near.far)) {
      const ends = cross.c.axis === 'x' ? [from[0], to[0]] : [from[1], to[1]]
      return {
        ...before,
        zone: '',
        aisle: '',
        axis: cross.c.axis,
        at_mm: String(cross.c.at),
        from_mm: String(snapped(Math.min(...ends))),
        to_mm: String(snapped(Math.max(...ends))),
      }
    }
  }
  if (!near) return before
  const { aisle } = near
  const ends = aisle.axis === 'x' ? [from[0], to[0]] : [from[1], to[1]]
  const named = { ...before, zone: aisle.zone, aisle: aisle.name, axis: '', at_mm: '' }
  if (kind === 'blocked')
    return { ...named, from_mm: String(snapped(Math.min(...ends))), to_mm: String(snapped(Math.max(...ends))) }
  const [a, b] = [ends[0] ?? 0, ends[1] ?? 0]
  const up = kind === 'one_way' && a !== b ? b > a : Math.abs(a - aisle.high) < Math.abs(a - aisle.low)
  return { ...named, heading: aisle.ends[up ? 1 : 0] ?? '' }
}

/** Is there all that a fact of its kind needs? */
export function isWhole(cells: Cells): boolean {
  if (cells.kind === 'cross_aisle') return !!cells.axis && !!cells.at_mm
  if (cells.kind === 'blocked') return (!!cells.aisle || !!cells.axis) && !!cells.from_mm && !!cells.to_mm
  return !!cells.aisle && !!cells.heading
}

/** How far a spot is from a line, in mm. */
export function away([x, y]: Spot, line: Line): number {
  let least = Infinity
  for (let n = 1; n < line.spots.length; n += 1) {
    const [[x1, y1], [x2, y2]] = [line.spots[n - 1] ?? [0, 0], line.spots[n] ?? [0, 0]]
    const square = (x2 - x1) ** 2 + (y2 - y1) ** 2
    const along = square === 0 ? 0 : Math.min(1, Math.max(0, ((x - x1) * (x2 - x1) + (y - y1) * (y2 - y1)) / square))
    least = Math.min(least, Math.hypot(x1 + along * (x2 - x1) - x, y1 + along * (y2 - y1) - y))
  }
  return least
}
