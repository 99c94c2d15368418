import type { Shape } from '../../shared/client'

export type Map = Shape['SiteMap']
/** `calm`: bins are a backdrop, for what is drawn over them. */
export type ColourBy = 'purpose' | 'fill' | 'counted' | 'kind' | 'verdict' | 'calm'
/** What is said of a bin over its colour: fits, turned down, chosen. */
export type Verdict = 'fits' | 'down' | 'chosen'

export const PURPOSE_HUES: Record<string, string> = {
  door: '#4A5A86',
  dock: '#4A5A86',
  receiving: '#6F7FA8',
  inspection: '#8A6FA8',
  cross_dock: '#6B8C9B',
  reserve: '#1E5B52',
  pick: '#4F7A2E',
  bulk: '#7A8C3A',
  hazard: '#A9512B',
  returns: '#9B6B4A',
  quarantine: '#A3312A',
  sort: '#5C6B69',
  packing: '#B67A12',
  staging: '#3E7C8C',
}
const KIND_HUES = ['#1E5B52', '#4A5A86', '#B67A12', '#4F7A2E', '#A9512B', '#8A6FA8', '#3E7C8C', '#9B6B4A']
export const kindHue = (n: number) => KIND_HUES[n % KIND_HUES.length] ?? '#5C6B69'

/** How long ago bins were counted last: up to so many days, in words, and how they are drawn then. One that never was is left open. */
export const COUNTED: [days: number, says: string, colour: string][] = [
  [7, 'this week', '#1E5B52'],
  [30, 'this month', '#5C8C80'],
  [90, 'this quarter', '#A9C4B9'],
  [Infinity, 'longer ago', '#D9CDB4'],
]

export type View = { scale: number; left: number; top: number } // pixels a millimetre; the corner of the canvas on the map, in mm
/** How large a bin is drawn, by zone: as far as its neighbours leave room. */
export function cells(map: Map): { wide: number[]; deep: number[] } {
  const wide = map.zones.map(() => 1_000)
  const deep = map.zones.map(() => 3_000)
  for (let n = 1; n < map.code.length; n += 1) {
    const zone = map.zone[n] ?? 0
    if (map.zone[n - 1] !== zone) continue
    const dy = Math.abs((map.y[n] ?? 0) - (map.y[n - 1] ?? 0))
    const dx = Math.abs((map.x[n] ?? 0) - (map.x[n - 1] ?? 0))
    if (dx === 0 && dy > 0) deep[zone] = Math.min(deep[zone] ?? dy, dy)
    else if (dy === 0 && dx > 0) wide[zone] = Math.min(Math.max(wide[zone] ?? dx, 1_000), Math.max(400, dx * 0.8))
  }
  return { wide: wide.map((w) => w * 0.86), deep: deep.map((d) => Math.min(d, 2_400) * 0.86) }
}

const SPOT = 4_000
export const spot = (x: number, y: number) => `${Math.floor(x / SPOT)} ${Math.floor(y / SPOT)}`
export function near(x: number, y: number): string[] {
  const keys = []
  for (const dx of [0, -SPOT, SPOT]) for (const dy of [0, -SPOT, SPOT]) keys.push(spot(x + dx, y + dy))
  return keys
}
/** Bins by the square they stand in, so that the one under the pointer is found at once. */
export function places(map: Map): globalThis.Map<string, number[]> {
  const found = new globalThis.Map<string, number[]>()
  for (let n = 0; n < map.code.length; n += 1) {
    const key = spot(map.x[n] ?? 0, map.y[n] ?? 0)
    const there = found.get(key)
    if (there) there.push(n)
    else found.set(key, [n])
  }
  return found
}

/** Bins that are drawn as one, since they stand over one another; each alone when one level is shown. */
export function stacked(map: Map, level: number | null): number[][] {
  if (level !== null) return map.code.flatMap((_, n) => (map.level[n] === level ? [[n]] : []))
  const found = new globalThis.Map<string, number[]>()
  for (let n = 0; n < map.code.length; n += 1) {
    const key = `${map.x[n]} ${map.y[n]}`
    const there = found.get(key)
    if (there) there.push(n)
    else found.set(key, [n])
  }
  return [...found.values()]
}

export function extent(map: Map, ghost: Map | null, focus?: string[]) {
  const only = focus && new Set(focus)
  let [left, right, bottom, top] = [Infinity, -Infinity, Infinity, -Infinity]
  for (const m of [map, ghost]) {
    if (!m) continue
    for (let n = 0; n < m.code.length; n += 1) {
      if (only && m === map && !only.has(m.code[n] ?? '')) continue
      const x = m.x[n] ?? 0
      const y = m.y[n] ?? 0
      if (x < left) left = x
      if (x > right) right = x
      if (y < bottom) bottom = y
      if (y > top) top = y
    }
  }
  if (!Number.isFinite(left)) return { left: -2_000, right: 42_000, bottom: -2_000, top: 26_000 }
  return { left: left - 3_000, right: right + 3_000, bottom: bottom - 4_500, top: top + 4_500 }
}

/** What both canvas and paper can draw. */
export type Pen = {
  rects: (list: number[], fill: string | null, stroke: string | null, width?: number) => void
  line: (points: number[], stroke: string, width: number, dash?: number[]) => void
  text: (says: string, x: number, y: number, px: number, fill: string, bold?: boolean) => void
}

export function onCanvas(pen: CanvasRenderingContext2D): Pen {
  const style = getComputedStyle(document.documentElement)
  const real = (c: string) => (c.startsWith('--') ? style.getPropertyValue(c).trim() : c)
  return {
    rects: (list, fill, stroke, width = 1) => {
      if (fill && !stroke) {
        pen.fillStyle = real(fill) // rectangle by rectangle: a path of thousands is slower to fill
        for (let n = 0; n < list.length; n += 4)
          pen.fillRect(list[n] ?? 0, list[n + 1] ?? 0, list[n + 2] ?? 0, list[n + 3] ?? 0)
        return
      }
      pen.beginPath()
      for (let n = 0; n < list.length; n += 4)
        pen.rect(list[n] ?? 0, list[n + 1] ?? 0, list[n + 2] ?? 0, list[n + 3] ?? 0)
      if (fill) {
        pen.fillStyle = real(fill)
        pen.fill()
      }
      if (stroke) {
        pen.strokeStyle = real(stroke)
        pen.lineWidth = width
        pen.stroke()
      }
    },
    line: (points, stroke, width, dash = []) => {
      pen.beginPath()
      for (let n = 0; n < points.length; n += 2) pen[n ? 'lineTo' : 'moveTo'](points[n] ?? 0, points[n + 1] ?? 0)
      pen.strokeStyle = real(stroke)
      pen.lineWidth = width
      pen.setLineDash(dash)
      pen.stroke()
      pen.setLineDash([])
    },
    text: (says, x, y, px, fill, bold) => {
      pen.font = `${bold ? 650 : 400} ${px}px ${real(bold ? '--sans' : '--mono')}`
      pen.fillStyle = real(fill)
      pen.fillText(says, x, y)
    },
  }
}

export function onPaper(width: number, height: number) {
  const style = getComputedStyle(document.documentElement)
  const real = (c: string) => (c.startsWith('--') ? style.getPropertyValue(c).trim() : c)
  const parts = [
    `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${width} ${height}"><rect width="100%" height="100%" fill="${real('--surface')}"/>`,
  ]
  const r = (v: number) => Math.round(v * 100) / 100
  const pen: Pen = {
    rects: (list, fill, stroke, w = 1) => {
      let path = ''
      for (let n = 0; n < list.length; n += 4)
        path += `M${r(list[n] ?? 0)} ${r(list[n + 1] ?? 0)}h${r(list[n + 2] ?? 0)}v${r(list[n + 3] ?? 0)}h${r(-(list[n + 2] ?? 0))}z`
      if (path)
        parts.push(
          `<path d="${path}" fill="${fill ? real(fill) : 'none'}"${stroke ? ` stroke="${real(stroke)}" stroke-width="${w}"` : ''}/>`,
        )
    },
    line: (points, stroke, w, dash = []) => {
      const pairs = []
      for (let n = 0; n < points.length; n += 2) pairs.push(`${r(points[n] ?? 0)},${r(points[n + 1] ?? 0)}`)
      parts.push(
        `<polyline points="${pairs.join(' ')}" fill="none" stroke="${real(stroke)}" stroke-width="${w}" stroke-dasharray="${dash.join(' ')}"/>`,
      )
    },
    text: (says, x, y, px, fill, bold) =>
      parts.push(
        `<text x="${r(x)}" y="${r(y)}" font-size="${px}" font-family="${bold ? 'sans-serif' : 'monospace'}"${bold ? ' font-weight="650"' : ''} fill="${real(fill)}">${says.replace(/[<&>]/g, '')}</text>`,
      ),
  }
  return { pen, text: () => parts.join('') + '</svg>' }
}

export function save(blob: Blob, name: string) {
  const url = URL.createObjectURL(blob)
  const link = document.createElement('a')
  link.href = url
  link.download = name
  link.click()
  URL.revokeObjectURL(url)
}

export type Spot = [x: number, y: number]
/** A line over the map, in mm. `arrows` say where it goes, `cased` sets it off, `aside` keeps it beside another on the same way. */
export type Line = {
  spots: Spot[]
  colour: string
  width: number
  dash?: number[]
  arrows?: boolean
  cased?: boolean
  aside?: number
}
/** A short text over the map. */
export type Label = { at: Spot; says: string; colour: string }

type Scene = {
  map: Map
  stacks: number[][]
  box: { wide: number[]; deep: number[] }
  ghost: Map | null
  ghostBox: { wide: number[]; deep: number[] } | null
  by: ColourBy
  picked: Set<string>
  verdicts?: Record<string, Verdict>
  way?: string[]
  lines?: Line[]
  tags?: Label[]
}

const BEST: Verdict[] = ['chosen', 'fits', 'down']

export function paint(pen: Pen, v: View, width: number, height: number, s: Scene) {
  pen.rects([0, 0, width, height], '--surface', null)
  const { map, box } = s
  const X = (x: number) => (x - v.left) * v.scale
  const Y = (y: number) => (v.top - y) * v.scale
  for (const cross of map.crosses) {
    const wide = Math.max(1, 1_600 * v.scale)
    if (cross.axis === 'x')
      pen.line(
        [cross.low === null ? 0 : X(cross.low), Y(cross.at), cross.high === null ? width : X(cross.high), Y(cross.at)],
        '--line',
        wide,
      )
    else
      pen.line(
        [X(cross.at), cross.low === null ? height : Y(cross.low), X(cross.at), cross.high === null ? 0 : Y(cross.high)],
        '--line',
        wide,
      )
  }
  const groups = new globalThis.Map<string, number[]>()
  const outlined: number[] = []
  const fills: number[] = []
  const hollow: number[] = []
  const counted: [string, number, number, number, number][] = []
  const crosses: number[] = []
  const pickedList: number[] = []
  const labels: [string, number, number, number, number][] = []
  const edges = map.zones.map(() => [Infinity, -Infinity, Infinity, -Infinity])
  const put = (key: string, x: number, y: number, w: number, h: number) => {
    const list = groups.get(key)
    if (list) list.push(x, y, w, h)
    else groups.set(key, [x, y, w, h])
  }
  const anyBlocked = Object.keys(map.blocked).length > 0
  for (const stack of s.stacks) {
    const n = stack[0] ?? 0
    const zone = map.zone[n] ?? 0
    const w = Math.max(1.2, (box.wide[zone] ?? 800) * v.scale)
    const h = Math.max(1.2, (box.deep[zone] ?? 800) * v.scale)
    const x = X(map.x[n] ?? 0) - w / 2
    const y = Y(map.y[n] ?? 0) - h / 2
    const e = edges[zone]
    if (e) {
      e[0] = Math.min(e[0] ?? x, x)
      e[1] = Math.max(e[1] ?? x, x + w)
      e[2] = Math.min(e[2] ?? y, y)
      e[3] = Math.max(e[3] ?? y, y + h)
    }
    if (x > width || y > height || x + w < 0 || y + h < 0) continue
    if (s.verdicts) {
      const said = stack.map((m) => s.verdicts?.[map.code[m] ?? ''])
      const verdict = BEST.find((b) => said.includes(b))
      if (verdict === 'chosen') put('--moss', x - 1.5, y - 1.5, w + 3, h + 3)
      else if (verdict === 'fits') outlined.push(x, y, w, h)
      else put(verdict === 'down' ? '--line' : '--paper', x, y, w, h)
    } else if (s.by === 'fill') {
      const full = stack.reduce((sum, m) => sum + Math.abs(map.fill[m] ?? 0), 0) / stack.length
      put('--tint', x, y, w, h)
      if (full !== 0) {
        const part = Math.min(1, Math.max(0.12, full / 100)) * h
        fills.push(x, y + h - part, w, part)
      }
    } else if (s.by === 'counted') {
      const stores = map.zones[zone]?.stores
      const days = stack.map((m) => map.counted[map.code[m] ?? ''])
      const part = h / stack.length // a slice for each of those above one another, the lowest at the bottom
      put(stores ? '--surface' : '--paper', x, y, w, h)
      days.forEach((d, k) => {
        if (d !== undefined)
          counted.push([COUNTED.find(([most]) => d <= most)?.[2] ?? '--tint', x, y + h - part * (k + 1), w, part])
      })
      if (stores && days.includes(undefined)) hollow.push(x, y, w, h)
    } else if (s.by === 'calm') put('--tint', x, y, w, h)
    else
      put(
        s.by === 'kind' ? kindHue(map.kind[n] ?? 0) : (PURPOSE_HUES[map.zones[zone]?.purpose ?? ''] ?? '#5C6B69'),
        x,
        y,
        w,
        h,
      )
    if (anyBlocked && stack.some((m) => map.blocked[map.code[m] ?? ''] !== undefined)) crosses.push(x, y, w, h)
    if (s.picked.size && stack.some((m) => s.picked.has(map.code[m] ?? ''))) pickedList.push(x, y, w, h)
    if (h >= 11 && w >= 34)
      labels.push([stack.length > 1 ? `${map.code[n]} +${stack.length - 1}` : (map.code[n] ?? ''), x, y, w, h])
  }
  for (const [fill, list] of groups) pen.rects(list, fill, null)
  if (fills.length) pen.rects(fills, '--primary', null)
  for (const [colour, ...rect] of counted) pen.rects(rect, colour, null)
  if (hollow.length) pen.rects(hollow, null, '--clay', 0.8)
  if (outlined.length) pen.rects(outlined, '--surface', '--moss', 1.4)
  for (let n = 0; n < crosses.length; n += 4) {
    const [x, y, w, h] = [crosses[n] ?? 0, crosses[n + 1] ?? 0, crosses[n + 2] ?? 0, crosses[n + 3] ?? 0]
    pen.line([x, y, x + w, y + h], '--brick', 1.6)
    pen.line([x, y + h, x + w, y], '--brick', 1.6)
  }
  if (pickedList.length) pen.rects(pickedList, null, '--clay', 2.5)
  const light = s.verdicts || s.by === 'fill' || s.by === 'counted' || s.by === 'calm'
  for (const [says, x, y, w, h] of labels) {
    const px = Math.min(13, (w - 4) / (says.length * 0.62))
    if (px < 5.5) continue
    if (light) pen.rects([x + 1, y + h / 2 - px * 0.7, says.length * px * 0.62 + 3, px * 1.4], '--surface', null)
    pen.text(says, x + 2, y + h / 2 + px * 0.35, px, light ? '--ink' : '#ffffff')
  }
  if (s.ghost && s.ghostBox) {
    const list: number[] = []
    for (let n = 0; n < s.ghost.code.length; n += 1) {
      const zone = s.ghost.zone[n] ?? 0
      const w = Math.max(1.5, (s.ghostBox.wide[zone] ?? 800) * v.scale)
      const h = Math.max(1.5, (s.ghostBox.deep[zone] ?? 800) * v.scale)
      list.push(X(s.ghost.x[n] ?? 0) - w / 2, Y(s.ghost.y[n] ?? 0) - h / 2, w, h)
    }
    pen.rects(list, '--clay-tint', '--clay', 1)
  }
  for (const line of s.lines ?? []) stroke(pen, line, X, Y)
  if (!s.verdicts)
    map.zones.forEach((z, n) => {
      const e = edges[n]
      if (!e || !Number.isFinite(e[0] ?? Infinity) || labels.length) return // where codes can be read, zones need no name
      if ((e[1] ?? 0) < 0 || (e[0] ?? 0) > width || (e[3] ?? 0) < 0 || (e[2] ?? 0) > height) return // all of it out of sight
      const wide = (e[1] ?? 0) - (e[0] ?? 0)
      const flat = (e[3] ?? 0) - (e[2] ?? 0) < 30
      const px = flat ? 11 : Math.max(11, Math.min(16, wide / 6))
      const says = wide > z.name.length * px * 0.55 ? z.name : z.code
      const below = flat && (e[2] ?? 0) > height / 2 // in the south half a row has its name below, away from what lies north of it
      if (wide > 24)
        pen.text(
          says,
          Math.max(4, e[0] ?? 0),
          below ? (e[3] ?? 0) + px + 1 : Math.max(px + 2, (e[2] ?? 0) - 5),
          px,
          '--ink',
          true,
        )
    })
  if (s.way && s.way.length > 1) {
    const points = s.way.flatMap((code) => {
      const n = map.code.indexOf(code)
      return n < 0 ? [] : [X(map.x[n] ?? 0), Y(map.y[n] ?? 0)]
    })
    if (points.length === 4)
      pen.line(
        [points[0] ?? 0, points[1] ?? 0, points[0] ?? 0, points[3] ?? 0, points[2] ?? 0, points[3] ?? 0],
        '--clay',
        2.5,
        [7, 5],
      )
    else pen.line(points, '--clay', 2.5, [7, 5])
    pen.rects([(points[0] ?? 0) - 5, (points[1] ?? 0) - 5, 10, 10], '--clay', null)
  }
  for (const tag of s.tags ?? []) {
    const [x, y] = [X(tag.at[0]), Y(tag.at[1])]
    const wide = tag.says.length * 7 + 6
    pen.rects([x - wide / 2, y - 8, wide, 16], '--surface', tag.colour, 1.2)
    pen.text(tag.says, x - wide / 2 + 3, y + 4, 12, tag.colour, true)
  }
  const metre = [1, 2, 5, 10, 20, 50, 100].find((m) => m * 1_000 * v.scale > 60) ?? 100
  pen.line([12, height - 12, 12 + metre * 1_000 * v.scale, height - 12], '--ink', 2)
  pen.text(`${metre} m`, 14, height - 17, 12, '--ink')
}

const CHEVRON = 6
const APART = 70

/** A line over the map, with a light edge where it must stand out, and chevrons in the direction it goes. */
function stroke(pen: Pen, line: Line, X: (x: number) => number, Y: (y: number) => number) {
  const off = line.aside ?? 0
  const points = line.spots.flatMap(([x, y]) => [X(x) + off, Y(y) - off])
  if (line.cased) pen.line(points, '--surface', line.width + 3)
  pen.line(points, line.colour, line.width, line.dash)
  if (!line.arrows) return
  let left = APART / 2
  for (let n = 0; n + 3 < points.length; n += 2) {
    const [x1, y1, x2, y2] = [points[n] ?? 0, points[n + 1] ?? 0, points[n + 2] ?? 0, points[n + 3] ?? 0]
    const long = Math.hypot(x2 - x1, y2 - y1)
    if (long === 0) continue
    const [dx, dy] = [(x2 - x1) / long, (y2 - y1) / long]
    let at = left
    for (; at < long; at += APART) {
      const [x, y] = [x1 + dx * at, y1 + dy * at]
      const back = (turn: number) => [x - CHEVRON * (dx - turn * dy), y - CHEVRON * (dy + turn * dx)] as const
      pen.line([...back(0.8), x, y, ...back(-0.8)], line.colour, Math.max(2, line.width * 0.8))
    }
    left = at - long
  }
}
