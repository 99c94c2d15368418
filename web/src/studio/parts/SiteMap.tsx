import { forwardRef, useCallback, useEffect, useImperativeHandle, useMemo, useRef, useState } from 'react'
import {
  ColourBy,
  Label,
  Line,
  Map,
  Pen,
  Spot,
  Verdict,
  View,
  cells,
  extent,
  near,
  onCanvas,
  onPaper,
  paint,
  places,
  save,
  spot,
  stacked,
} from './mapScene'

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
  /** What is drawn over the bins. */
  lines?: Line[]
  tags?: Label[]
  /** When there is one, dragging draws instead of moving the map: where it began, where it is, and whether it is done. A click is
   * a stroke that ends where it began. */
  sketch?: ((from: Spot, to: Spot, done: boolean) => void) | null
  /** A click that does not draw, with how many mm are near enough; false when it met nothing but bins. */
  touch?: ((at: Spot, within: number) => boolean) | null
  /** What the picture says, for those who do not see it. */
  says?: string
}

/** A site from above, drawn from its coordinates: north is up, the corner of the site at the bottom left. Wheel zooms, dragging
 * pans, a click picks a bin, shift and drag picks all within; arrows, + - and 0 do the same by keys. */
export const SiteMap = forwardRef<Hand, Props>(function SiteMap(
  { map, ghost, level, by, picked, pick, verdicts, way, focus, says, lines, tags, sketch, touch },
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
      paint(to, at, width, height, {
        map,
        stacks,
        box,
        ghost: ghost ?? null,
        ghostBox,
        by,
        picked,
        verdicts,
        way,
        lines,
        tags,
      }),
    [map, stacks, box, ghost, ghostBox, by, picked, verdicts, way, lines, tags],
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

  const spotAt = (px: number, py: number): Spot =>
    view ? [view.left + px / view.scale, view.top - py / view.scale] : [0, 0]
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
        style={{ width: size.width, height: size.height, cursor: frame || sketch ? 'crosshair' : 'grab' }}
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
          if (sketch && !d.frame) return sketch(spotAt(d.x, d.y), spotAt(d.moved ? px : d.x, d.moved ? py : d.y), false)
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
          if (sketch && !d.frame) return sketch(spotAt(d.x, d.y), spotAt(d.moved ? px : d.x, d.moved ? py : d.y), true)
          if (d.frame && frame) pick(within(frame), e.ctrlKey || e.metaKey)
          else if (!d.moved && !touch?.(spotAt(px, py), 7 / (view?.scale ?? 1)))
            pick(found(px, py), e.ctrlKey || e.metaKey)
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
