import Button from '@mui/material/Button'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Entry, Pick, Tick } from '../parts/controls'
import { useAnswered, usePin } from '../parts/Answered'
import { MARK } from '../parts/GateSays'
import { Skeleton } from '../parts/Skeleton'
import { WaitAt } from '../parts/WaitAt'
import { mayDo, NoFloor, useWorld, WorldPicker } from '../parts/WorldPicker'
import type { Act } from './lists'
import { OrderAtGate } from './OrderAtGate'

type Waits = Shape['WaitsView']
type Stands = Waits['stands']
/** How an order stands: its mark, its colour, and the words. */
export const STANDS: Record<Stands, readonly [string, string, string]> = {
  ...MARK,
  held: ['–', 'quiet', 'kept back'],
  released: ['✓', 'holds', 'released'],
}
const ORDER: Stands[] = ['stop', 'warn', 'pass', 'held', 'released']
/** What may be asked to go: whatever else keeps it is said when it is asked. */
const MAY_BE_ASKED: Stands[] = ['stop', 'warn', 'pass']

/** The orders of a floor that go out: which may go, by which gate, and why not; released one, some or all that can go whole. */
export default function Release({ me }: { me: Shape['Me'] }) {
  const chosen = useWorld('live')
  const [query, setQuery] = useSearchParams()
  const [ticked, setTicked] = useState<string[]>([])
  const [find, setFind] = useState('')
  const world = chosen.world?.id ?? ''
  const stands = (query.get('stands') ?? '') as Stands | ''
  const at = query.get('at') ?? ''
  const view = useQuery({
    queryKey: ['world', world, 'releases', stands, at, find],
    enabled: !!world,
    placeholderData: keepPreviousData,
    queryFn: () =>
      got(client.GET('/api/worlds/{id}/releases', { params: { path: { id: world }, query: { stands, at, find } } })),
  })
  const answered = useAnswered(world)
  const act = answered.act
  const pin = usePin(world)
  const set = (key: string, value: string) => {
    const next = new URLSearchParams(query)
    if (value) next.set(key, value)
    else next.delete(key)
    setQuery(next, { replace: true })
  }
  const orders = view.data?.orders ?? []
  const may = mayDo(me, chosen.world, 'release_orders')
  const open = orders.filter((o) => MAY_BE_ASKED.includes(o.stands)).map((o) => o.judged.order)
  const keys = ticked.filter((k) => open.includes(k))
  const asked = (numbers: string[], whole: boolean, dry = false): Act => ({
    kind: 'release_orders',
    orders: numbers,
    warned: !whole,
    whole,
    dry,
  })
  const one = orders.find((o) => o.judged.order === query.get('order')) ?? orders[0]
  const every = ORDER.reduce((n, s) => n + (view.data?.counts[s] ?? 0), 0)
  return (
    <div className="page">
      <main className="main">
        <div className="form" style={{ float: 'right', marginTop: 0 }}>
          {chosen.worlds.length > 0 && <WorldPicker {...chosen} />}
          {chosen.world && chosen.world.kind !== 'live' && (
            <Link className="link" to={`/desk/${world}`}>
              Its desk
            </Link>
          )}
        </div>
        <h1>Release</h1>
        <p className="lead">
          Which orders may be worked: what each gate says of what is on hand. What is released gets a shipment it leaves
          with, and goes at once or waits for its wave.
        </p>
        {chosen.worlds.length === 0 && <NoFloor />}
        {view.error && <p className="empty">{view.error.message}</p>}
        {!view.data ? (
          world && !view.error && <Skeleton />
        ) : (
          <>
            <div className="form">
              <Pick aria-label="How they stand" value={stands} onChange={(e) => set('stands', e.target.value)}>
                <option value="">all {every}</option>
                {ORDER.map((s) => (
                  <option key={s} value={s}>
                    {view.data.counts[s] ?? 0} {STANDS[s][2]}
                  </option>
                ))}
              </Pick>
              <Entry
                aria-label="Order, partner, class, item, carrier or day"
                placeholder="order, partner, class, item, carrier, day"
                style={{ width: 250 }}
                maxLength={80}
                value={find}
                onChange={(e) => setFind(e.target.value)}
              />
              {may && (
                <>
                  <Button variant="contained" disabled={!keys.length} onClick={() => act(asked(keys, false))}>
                    {keys.length ? `Release ${keys.length}` : 'Release'}
                  </Button>
                  <Button
                    disabled={!keys.length}
                    onClick={() => act(asked(keys, false, true))}
                    title="Says which may go, into which shipments, waves and tasks; nothing is released"
                  >
                    What would happen
                  </Button>
                  <Button
                    disabled={!view.data.whole.length}
                    onClick={() => act(asked(view.data.whole, true))}
                    title="Those of which all is on hand, whatever is shown here"
                  >
                    Release the {view.data.whole.length} that can go whole
                  </Button>
                </>
              )}
            </div>
            <WaitAt of={view.data.waiting} at={at} set={(gate) => set('at', gate)} />
            {answered.shown}
            {orders.length === 0 ? (
              <p className="empty">
                {every ? 'No order stands so.' : 'No order goes out. Orders come by file, by form or from the host.'}
              </p>
            ) : (
              <table className="plain rows">
                <thead>
                  <tr>
                    {may && (
                      <th>
                        <Tick
                          aria-label="Take all that may be asked"
                          checked={open.length > 0 && keys.length === open.length}
                          onChange={() => setTicked(keys.length === open.length ? [] : open)}
                        />
                      </th>
                    )}
                    <th>Order</th>
                    <th>For</th>
                    <th>Leaves</th>
                    <th>Priority</th>
                    <th style={{ textAlign: 'right' }}>On hand</th>
                    <th>Stands</th>
                  </tr>
                </thead>
                <tbody>
                  {orders.map((o) => (
                    <Row
                      key={o.judged.order}
                      of={o}
                      chosen={o === one}
                      choose={() => set('order', o.judged.order)}
                      ticked={may ? keys.includes(o.judged.order) : undefined}
                      toggle={() => {
                        const n = o.judged.order
                        setTicked(keys.includes(n) ? keys.filter((k) => k !== n) : [...keys, n])
                      }}
                    />
                  ))}
                </tbody>
              </table>
            )}
            {view.data.total > orders.length && (
              <p className="quiet">
                {orders.length} of {view.data.total} are shown. Narrow them by words or by how they stand.
              </p>
            )}
          </>
        )}
      </main>
      <aside className="bench" aria-label="Chosen order">
        {one && (
          <OrderAtGate
            key={one.judged.order}
            of={one}
            world={world}
            gates={view.data?.gates ?? []}
            act={act}
            may={(kind) => mayDo(me, chosen.world, kind)}
            pin={chosen.world?.kind === 'rehearsal' && may ? pin : undefined}
          />
        )}
      </aside>
    </div>
  )
}

function Row(props: { of: Waits; chosen: boolean; choose: () => void; ticked?: boolean; toggle: () => void }) {
  const { of: o, chosen, choose, ticked, toggle } = props
  const [mark, kind, words] = STANDS[o.stands]
  return (
    <tr aria-current={chosen ? 'true' : undefined}>
      {ticked !== undefined && (
        <td>
          {MAY_BE_ASKED.includes(o.stands) && (
            <Tick aria-label={`Take ${o.judged.order}`} checked={ticked} onChange={toggle} />
          )}
        </td>
      )}
      <td>
        <button className="link code" onClick={choose}>
          {o.judged.order}
        </button>
      </td>
      <td>
        {o.judged.partner}
        {o.order_class && <div className="quiet">{o.order_class}</div>}
      </td>
      <td className="mono">{o.leaves}</td>
      <td>{o.priority}</td>
      <td className="mono" style={{ textAlign: 'right' }}>
        {o.judged.rate}
      </td>
      <td>
        <span className={`mark ${kind}`}>
          {mark} {words}
        </span>
        {o.stands === 'stop' && o.judged.waits_at && <div className="quiet">at {o.judged.waits_at}</div>}
      </td>
    </tr>
  )
}
