import type { Shape } from '../shared/client'

type Bin = Shape['BinView']
const CELL = 1250 // mm, what one bin takes up on the strip
const MARGIN = 1800

/** The bins a question looked at, from above: those that fit, those turned down, the one chosen, the way to it. */
export function MapStrip({ bins, why, from }: { bins: Bin[]; why: Shape['Why']; from: string }) {
  const verdicts = new Map<string, string | null>()
  for (const look of why.explanation.looks) for (const c of look.bins) if (!verdicts.has(c.bin) || c.turned_down === null) verdicts.set(c.bin, c.turned_down)
  const chosen = why.bin
  const shares = new Set(why.explanation.allocations?.map((a) => a.bin))
  const shown = bins.filter((b) => verdicts.has(b.code))
  const start = bins.find((b) => b.code === from)
  if (shown.length === 0) return null
  // Aisles run across the strip, the doors are on its left; levels of a bay stand below one another.
  const at = (b: Bin) => ({ x: b.y, y: b.x + b.level * CELL * 0.9 })
  const points = [...shown, ...(start ? [start] : [])].map(at)
  const left = Math.min(...points.map((p) => p.x)) - MARGIN
  const top = Math.min(...points.map((p) => p.y)) - MARGIN
  const width = Math.max(...points.map((p) => p.x)) + MARGIN - left
  const height = Math.max(...points.map((p) => p.y)) + MARGIN - top
  const goal = shown.find((b) => b.code === chosen)
  const fits = [...verdicts.values()].filter((v) => v === null).length
  return (
    <>
      <svg
        className="strip"
        viewBox={`${left} ${top} ${width} ${height}`}
        style={{ maxHeight: 240 }}
        role="img"
        aria-label={`${verdicts.size} bins looked at, ${fits} fit${chosen ? `, ${chosen} chosen` : ''}`}
      >
        <g>
          {shown.map((b) => (
            <Cell key={b.code} {...at(b)} bin={b} verdict={verdicts.get(b.code) ?? null} chosen={shares.has(b.code)} />
          ))}
          {start && goal && (
            <path
              d={`M${at(start).x} ${at(start).y}V${at(goal).y - CELL * 0.7}H${at(goal).x}`}
              fill="none"
              stroke="var(--clay)"
              strokeWidth={CELL * 0.22}
              strokeDasharray={`${CELL * 0.5} ${CELL * 0.4}`}
            />
          )}
          {start && <circle cx={at(start).x} cy={at(start).y} r={CELL * 0.55} fill="var(--clay)" />}
        </g>
      </svg>
      <div className="legend">
        <span>
          <Sample chosen />
          chosen
        </span>
        <span>
          <Sample verdict={null} />
          fits
        </span>
        <span>
          <Sample verdict="not_empty" />
          turned down
        </span>
        <span>
          <Sample verdict="blocked" />
          blocked
        </span>
        {start && <span>● {from}, where it is received</span>}
      </div>
    </>
  )
}

function Cell({ x, y, bin, verdict, chosen }: { x: number; y: number; bin?: Bin; verdict: string | null; chosen?: boolean }) {
  const half = CELL * 0.36
  const box = { x: x - half, y: y - half, width: half * 2, height: half * 2 }
  const title = bin && <title>{`${bin.code}: ${chosen ? 'chosen' : verdict ? verdict.replace(/_/g, ' ') : 'fits'}`}</title>
  if (chosen)
    return (
      <g>
        {title}
        <rect {...box} x={x - half * 1.5} y={y - half * 1.5} width={half * 3} height={half * 3} fill="var(--moss)" />
      </g>
    )
  if (verdict === 'blocked')
    return (
      <path d={`M${x - half} ${y - half}l${half * 2} ${half * 2}m0 ${-half * 2}l${-half * 2} ${half * 2}`} stroke="var(--brick)" strokeWidth={CELL * 0.16}>
        {title}
      </path>
    )
  if (verdict)
    return (
      <rect {...box} fill="var(--line)">
        {title}
      </rect>
    )
  return (
    <rect {...box} fill="var(--surface)" stroke="var(--moss)" strokeWidth={CELL * 0.14}>
      {title}
    </rect>
  )
}

function Sample({ verdict = null, chosen }: { verdict?: string | null; chosen?: boolean }) {
  return (
    <svg viewBox="-600 -600 1200 1200" aria-hidden="true">
      <Cell x={0} y={0} verdict={verdict} chosen={chosen} />
    </svg>
  )
}
