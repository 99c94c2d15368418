import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { Pick } from '../parts/controls'
import { DRAFT } from '../parts/data'

type Cost = Shape['Cost']

const ROWS: [string, (cost: Cost) => string][] = [
  ['Questions', (c) => String(c.questions)],
  ['Scans', (c) => String(c.scans)],
  ['Taps', (c) => String(c.taps)],
  ['Keys', (c) => String(c.keys)],
  ['Seconds', (c) => (c.ms / 1000).toFixed(0)],
]

/** How many scans, taps, keys and seconds an order takes with a flow, found by running it; beside what is in force. */
export function CostBench({ flows, rulebook }: { flows: { id: string; name: string }[]; rulebook: string }) {
  const [flow, setFlow] = useState('')
  const [number, setNumber] = useState('')
  const asked = flows.some((f) => f.id === flow) ? flow : (flows[0]?.id ?? '')
  const cost = useQuery({
    queryKey: ['bench', 'cost', asked, number, rulebook],
    enabled: asked !== '',
    placeholderData: (before) => before,
    retry: false,
    queryFn: () =>
      got(
        client.POST('/api/drafts/{id}/bench/cost', {
          params: { path: { id: DRAFT } },
          body: { flow: asked, order: number },
        }),
      ),
  })
  if (!flows.length) return null
  const { now, before, given_up, order, orders } = cost.data ?? {
    now: null,
    before: null,
    given_up: [],
    order: '',
    orders: [],
  }
  const same = before && now && ROWS.every(([, of]) => of(before) === of(now))
  return (
    <section aria-label="What an order takes">
      <h2>
        What it takes <small className="quiet">found by running it</small>
      </h2>
      <div className="ask">
        <label className="quiet" htmlFor="cost-flow">
          Flow
        </label>
        <Pick id="cost-flow" value={asked} onChange={(e) => (setFlow(e.target.value), setNumber(''))}>
          {flows.map((f) => (
            <option key={f.id} value={f.id}>
              {f.name}
            </option>
          ))}
        </Pick>
        <label className="quiet" htmlFor="cost-order">
          Order
        </label>
        <Pick id="cost-order" value={order} onChange={(e) => setNumber(e.target.value)}>
          {orders.map((o) => (
            <option key={o} value={o}>
              {o}
            </option>
          ))}
        </Pick>
      </div>
      {cost.error ? (
        <p className="quiet">{cost.error.message}</p>
      ) : (
        now && (
          <>
            <table className="plain">
              <thead>
                <tr>
                  <td />
                  <th className="num">By this draft</th>
                  {before && !same && <th className="num">In force</th>}
                </tr>
              </thead>
              <tbody>
                {ROWS.map(([title, of]) => (
                  <tr key={title}>
                    <td>{title}</td>
                    <td className="num">{of(now)}</td>
                    {before && !same && <td className="num">{of(before)}</td>}
                  </tr>
                ))}
              </tbody>
            </table>
            {same && <p className="quiet">As many as by what is in force.</p>}
            {now.stopped && (
              <p className="mark doubt">
                ▲ It stopped: <Told text={now.stopped} />
              </p>
            )}
            {given_up.map((says) => (
              <p key={says} className="mark doubt">
                ▲ {says}
              </p>
            ))}
            <p className="quiet">
              Taken for a scan {(cost.data?.scan_ms ?? 0) / 1000} s, a tap {(cost.data?.tap_ms ?? 0) / 1000} s, a key{' '}
              {(cost.data?.key_ms ?? 0) / 1000} s. All of the order comes as ordered, or is picked as far as it is here.
            </p>
          </>
        )
      )}
    </section>
  )
}
