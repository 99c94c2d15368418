import type { Shape } from '../../shared/client'

/** How many orders wait at each gate; one of them chosen shows those alone. */
export function WaitAt(props: { of: Shape['WaitingView'][]; at: string; set: (gate: string) => void }) {
  const { of, at, set } = props
  const shown = at && !of.some((w) => w.gate === at) ? [...of, { gate: at, orders: 0 }] : of
  if (shown.length === 0) return null
  return (
    <p className="wait-at" role="group" aria-label="Where orders wait">
      <span className="quiet">They wait at</span>
      {shown.map((w) => (
        <button key={w.gate} aria-pressed={at === w.gate} onClick={() => set(at === w.gate ? '' : w.gate)}>
          {w.gate} <b>{w.orders}</b>
        </button>
      ))}
    </p>
  )
}
