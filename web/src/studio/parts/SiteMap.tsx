import { forwardRef, useCallback, useEffect, useImperativeHandle, useMemo, useRef, useState } from 'react'
import type { Shape } from '../../shared/client'

type Map = Shape['SiteMap']
export type ColourBy = 'purpose' | 'fill' | 'kind' | 'verdict'
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

type View = { scale: number; left: number; top: number } // pixels a millimetre; the corner of the canvas on the map, in mm
export type Hand = { show: (code: string) => boolean; fit: () => void; picture: (kind: 'png' | 'svg') => void }

type Props = {
  map: Map
  ghost?: Map | null
  level: number | null
  by: ColourBy
  picked: Set<string>
  pick: (codes: string[], add: boolean) => void
  verdicts?: Record<string, Verdict>
  way?: string[]
  /** Bins that are shown large rather than the whole site. */
  focus?: string[]
  /** What the picture says, for those who do not see it. */
  says?: string
}

/** How large a bin is drawn, by zone: as far as its neighbours leave room. */
function cells(map: Map): { wide: number[]; deep: number[] } {
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

/** A site from above, drawn from its coordinates: north is up, the corner of the site at the bottom left. Wheel zooms, dragging
 * pans, a click picks a bin, shift and drag picks all within; arrows, + - and 0 do the same by keys. */
export const SiteMap = forwardRef<Hand, Props>(function SiteMap(
  { map, ghost, level, by, picked, pick, verdicts, way, focus, says },
  hand,
) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const [size, setSize] = useState({ width: 800, height: 500 })
  const [view, setView] = useState<View | null>(null)
  const [over, setOver] = useState<string>('')
  const [frame, setFrame] = useState<{ x: number; y: number; w: number; h: number } | null>(null)
  const drag = useRef<{ x: number; y: number; view: View; moved: boolean; frame: boolean } | null>(null)
  const box = useMemo(() => cells(map), [map])
  const ghostBox = useMemo(() => (ghost ? cells(ghost) : null), [ghost])
  const spots = useMemo(() => places(map), [map])
  const stacks = useMemo(() => stacked(map, level), [map, level])
  const bounds = useMemo(() => extent(map, ghost ?? null, focus), [map, ghost, focus?.join(' ')]) // eslint-disable-line react-hooks/exhaustive-deps

  const fit = useCallback(() => {
    const scale = Math.min(size.width / (bounds.right - bounds.left), size.height / (bounds.top - bounds.bottom))
    const left = bounds.left - (size.width / scale - (bounds.right - bounds.left)) / 2
    const top = bounds.top + (size.height / scale - (bounds.top - bounds.bottom)) / 2
    setView({ scale, left, top })
  }, [bounds, size])

  useEffect(() => {
    const host = canvas.current?.parentElement
    if (!host) return
    const watch = new ResizeObserver(() => setSize({ width: host.clientWidth, height: host.clientHeight }))
    watch.observe(host)
    return () => watch.disconnect()
  }, [])
  // a larger site than before, or another one, is shown whole; until somebody has moved the view, so is a window of another size
  const moved = useRef(false)
  const whole = `${map.site} ${bounds.left} ${bounds.right} ${bounds.top} ${bounds.bottom}`
  useEffect(() => {
    moved.current = false
    fit()
  }, [whole]) // eslint-disable-line react-hooks/exhaustive-deps
  useEffect(() => {
    if (!moved.current) fit()
  }, [fit])

  const draw = useCallback(
    (to: Pen, at: View, width: number, height: number) =>
      paint(to, at, width, height, { map, stacks, box, ghost: ghost ?? null, ghostBox, by, picked, verdicts, way }),
    [map, stacks, box, ghost, ghostBox, by, picked, verdicts, way],
  )
  useEffect(() => {
    const c = canvas.current
    const pen = c?.getContext('2d')
    if (!c || !pen || !view) return
    const began = performance.now()
    const ratio = window.devicePixelRatio || 1
    c.width = size.width * ratio
    c.height = size.height * ratio
    pen.setTransform(ratio, 0, 0, ratio, 0, 0)
    draw(onCanvas(pen), view, size.width, size.height)
    performance.clearMeasures('map drawn') // only the latest is kept; whoever measures hears of each
    performance.measure('map drawn', { start: began })
  }, [draw, view, size])

  useImperativeHandle(hand, () => ({
    show: (code) => {
      const n = map.code.indexOf(code)
      if (n < 0) return false
      const scale = Math.max(view?.scale ?? 0, 26 / 1_000)
      moved.current = true
      setView({ scale, left: (map.x[n] ?? 0) - size.width / scale / 2, top: (map.y[n] ?? 0) + size.height / scale / 2 })
      return true
    },
    fit,
    picture: (kind) => {
      if (!view) return
      if (kind === 'png') canvas.current?.toBlob((blob) => blob && save(blob, `${map.site}.png`))
      else {
        const sheet = onPaper(size.width, size.height)
        draw(sheet.pen, view, size.width, size.height)
        save(new Blob([sheet.text()], { type: 'image/svg+xml' }), `${map.site}.svg`)
      }
    },
  }))

  const at = (e: { clientX: number; clientY: number }) => {
    const r = canvas.current?.getBoundingClientRect()
    return { px: e.clientX - (r?.left ?? 0), py: e.clientY - (r?.top ?? 0) }
  }
  const zoom = useCallback((factor: number, px: number, py: number) => {
    moved.current = true
    setView((v) => {
      if (!v) return v
      const scale = Math.min(0.4, Math.max(0.0003, v.scale * factor))
      return { scale, left: v.left + px / v.scale - px / scale, top: v.top - py / v.scale + py / scale }
    })
  }, [])
  useEffect(() => {
    const c = canvas.current
    if (!c) return
    const turn = (e: WheelEvent) => {
      e.preventDefault()
      const r = c.getBoundingClientRect()
      zoom(Math.exp(-e.deltaY * 0.0016), e.clientX - r.left, e.clientY - r.top)
    }
    c.addEventListener('wheel', turn, { passive: false }) // the page must not scroll along
    return () => c.removeEventListener('wheel', turn)
  }, [zoom])

  const found = (px: number, py: number): string[] => {
    if (!view) return []
    const x = view.left + px / view.scale
    const y = view.top - py / view.scale
    for (const key of near(x, y)) {
      for (const n of spots.get(key) ?? []) {
        const zone = map.zone[n] ?? 0
        const w = (box.wide[zone] ?? 800) / 2
        const h = (box.deep[zone] ?? 800) / 2
        if (
          Math.abs((map.x[n] ?? 0) - x) <= w &&
          Math.abs((map.y[n] ?? 0) - y) <= h &&
          (level === null || map.level[n] === level)
        )
          return here(n)
      }
    }
    return []
  }
  /** All bins that stand over one another there, or the one of the level that is shown. */
  const here = (n: number) => {
    const codes = []
    for (const m of spots.get(spot(map.x[n] ?? 0, map.y[n] ?? 0)) ?? [])
      if (map.x[m] === map.x[n] && map.y[m] === map.y[n] && (level === null || map.level[m] === level))
        codes.push(map.code[m] ?? '')
    return codes
  }
  const within = (f: { x: number; y: number; w: number; h: number }) => {
    if (!view) return []
    const x1 = view.left + f.x / view.scale
    const x2 = view.left + (f.x + f.w) / view.scale
    const y1 = view.top - (f.y + f.h) / view.scale
    const y2 = view.top - f.y / view.scale
    const codes = []
    for (let n = 0; n < map.code.length; n += 1) {
      const x = map.x[n] ?? 0
      const y = map.y[n] ?? 0
      if (x >= x1 && x <= x2 && y >= y1 && y <= y2 && (level === null || map.level[n] === level))
        codes.push(map.code[n] ?? '')
    }
    return codes
  }
  return (
    <div className="sitemap">
      <canvas
        ref={canvas}
        tabIndex={0}
        role="img"
        aria-label={
          says ?? `Map of ${map.site}: ${map.code.length} bins in ${map.zones.length} zones, ${picked.size} picked`
        }
        style={{ width: size.width, height: size.height, cursor: frame ? 'crosshair' : 'grab' }}
        onPointerDown={(e) => {
          if (!view) return
          const { px, py } = at(e)
          e.currentTarget.setPointerCapture(e.pointerId)
          drag.current = { x: px, y: py, view, moved: false, frame: e.shiftKey }
        }}
        onPointerMove={(e) => {
          const { px, py } = at(e)
          const d = drag.current
          if (!d) {
            const codes = found(px, py)
            setOver(codes.length > 1 ? `${codes[0]} to ${codes.at(-1)}` : (codes[0] ?? ''))
            return
          }
          if (Math.abs(px - d.x) + Math.abs(py - d.y) > 4) d.moved = true
          if (d.frame)
            setFrame({ x: Math.min(px, d.x), y: Math.min(py, d.y), w: Math.abs(px - d.x), h: Math.abs(py - d.y) })
          else if (d.moved) moved.current = true
          if (!d.frame && d.moved)
            setView({
              ...d.view,
              left: d.view.left - (px - d.x) / d.view.scale,
              top: d.view.top + (py - d.y) / d.view.scale,
            })
        }}
        onPointerUp={(e) => {
          const { px, py } = at(e)
          const d = drag.current
          drag.current = null
          if (!d) return
          if (d.frame && frame) pick(within(frame), e.ctrlKey || e.metaKey)
          else if (!d.moved) pick(found(px, py), e.ctrlKey || e.metaKey)
          setFrame(null)
        }}
        onKeyDown={(e) => {
          const step = 60 / (view?.scale ?? 1)
          const moves: Record<string, [number, number]> = {
            ArrowLeft: [-step, 0],
            ArrowRight: [step, 0],
            ArrowUp: [0, step],
            ArrowDown: [0, -step],
          }
          const move = moves[e.key]
          if (move) moved.current = true
          if (move) setView((v) => v && { ...v, left: v.left + move[0], top: v.top + move[1] })
          else if (e.key === '+' || e.key === '=') zoom(1.3, size.width / 2, size.height / 2)
          else if (e.key === '-') zoom(1 / 1.3, size.width / 2, size.height / 2)
          else if (e.key === '0') fit()
          else if (e.key === 'Escape') pick([], false)
          else return
          e.preventDefault()
        }}
      />
      {frame && <div className="frame" style={{ left: frame.x, top: frame.y, width: frame.w, height: frame.h }} />}
      {over && <span className="over code">{over}</span>}
    </div>
  )
})

const SPOT = 4_000
const spot = (x: number, y: number) => `${Math.floor(x / SPOT)} ${Math.floor(y / SPOT)}`
function near(x: number, y: number): string[] {
  const keys = []
  for (const dx of [0, -SPOT, SPOT]) for (const dy of [0, -SPOT, SPOT]) keys.push(spot(x + dx, y + dy))
  return keys
}
/** Bins by the square they stand in, so that the one under the pointer is found at once. */
function places(map: Map): globalThis.Map<string, number[]> {
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
function stacked(map: Map, level: number | null): number[][] {
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

function extent(map: Map, ghost: Map | null, focus?: string[]) {
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
type Pen = {
  rects: (list: number[], fill: string | null, stroke: string | null, width?: number) => void
  line: (points: number[], stroke: string, width: number, dash?: number[]) => void
  text: (says: string, x: number, y: number, px: number, fill: string, bold?: boolean) => void
}

function onCanvas(pen: CanvasRenderingContext2D): Pen {
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

function onPaper(width: number, height: number) {
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

function save(blob: Blob, name: string) {
  const url = URL.createObjectURL(blob)
  const link = document.createElement('a')
  link.href = url
  link.download = name
  link.click()
  URL.revokeObjectURL(url)
}

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
}

const BEST: Verdict[] = ['chosen', 'fits', 'down']

function paint(pen: Pen, v: View, width: number, height: number, s: Scene) {
  pen.rects([0, 0, width, height], '--surface', null)
  const { map, box } = s
  const X = (x: number) => (x - v.left) * v.scale
  const Y = (y: number) => (v.top - y) * v.scale
  for (const cross of map.cross_aisles) pen.line([0, Y(cross), width, Y(cross)], '--line', Math.max(1, 1_600 * v.scale))
  const groups = new globalThis.Map<string, number[]>()
  const outlined: number[] = []
  const fills: number[] = []
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
    } else
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
  if (outlined.length) pen.rects(outlined, '--surface', '--moss', 1.4)
  for (let n = 0; n < crosses.length; n += 4) {
    const [x, y, w, h] = [crosses[n] ?? 0, crosses[n + 1] ?? 0, crosses[n + 2] ?? 0, crosses[n + 3] ?? 0]
    pen.line([x, y, x + w, y + h], '--brick', 1.6)
    pen.line([x, y + h, x + w, y], '--brick', 1.6)
  }
  if (pickedList.length) pen.rects(pickedList, null, '--clay', 2.5)
  const light = s.verdicts || s.by === 'fill'
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
  const metre = [1, 2, 5, 10, 20, 50, 100].find((m) => m * 1_000 * v.scale > 60) ?? 100
  pen.line([12, height - 12, 12 + metre * 1_000 * v.scale, height - 12], '--ink', 2)
  pen.text(`${metre} m`, 14, height - 17, 12, '--ink')
}
