import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { DRAFT, useDraft, useGround } from '../parts/data'
import { Entry, Pick } from '../parts/controls'
import { KINDS } from '../ground/OrderForm'
import { ItemPick } from '../parts/ItemPick'
import { TabRow } from '../parts/TabRow'
import { TasksShown } from '../parts/TasksShown'

type Kind = Shape['JourneyBody']['kind']
const GOES_OUT: Kind[] = ['sales', 'vendor_return', 'transfer_out']

/** One order's journey, or that of an item as if it had been ordered: which plan applies, why the others do not, what happens to its goods. */
export default function JourneyBench() {
  const ground = useGround()
  const draft = useDraft()
  const [chosen, setOrder] = useState('PO-1007')
  const [line, setLine] = useState(0)
  const orders = ground.data?.orders ?? []
  const order = orders.some((o) => o.number === chosen) ? chosen : (orders[0]?.number ?? '')
  const [goods, setGoods] = useState<{ item: string; kind: Kind; partner: string; count: string } | null>(null)
  const count = Number(goods?.count.replace(/[ ,]/g, '') ?? 1)
  const asked = goods ? goods.item !== '' && Number.isInteger(count) && count > 0 : order !== ''
  const body = goods
    ? { order: '', line: 0, item: goods.item, kind: goods.kind, partner: goods.partner, quantity: count }
    : { order, line, item: '', kind: 'purchase' as Kind, partner: '', quantity: 1 }
  const item = ground.data?.items.find((i) => i.code === goods?.item)
  const answer = useQuery({
    queryKey: ['bench', 'steps', body, draft.data?.rulebook],
    enabled: asked,
    placeholderData: (before) => before,
    queryFn: () => got(client.POST('/api/drafts/{id}/bench/steps', { params: { path: { id: DRAFT } }, body })),
  })
  const way = answer.data?.way
  const task = answer.data?.task
  return (
    <aside className="bench" aria-label="Bench">
      <h2>
        Bench <small className="quiet">what happens to goods that come</small>
      </h2>
      <TabRow
        label="Asked about"
        tabs={[
          ['order', 'An order', 0],
          ['item', 'An item', 0],
        ]}
        value={goods ? 'item' : 'order'}
        choose={(what) =>
          setGoods(
            what === 'order'
              ? null
              : { item: ground.data?.items[0]?.code ?? '', kind: 'purchase', partner: '', count: '1' },
          )
        }
      />
      {goods && (
        <div className="ask">
          <span className="quiet">Goods</span>
          <ItemPick code={goods.item} choose={(code) => setGoods({ ...goods, item: code })} />
          <label className="quiet" htmlFor="journey-count">
            How many
          </label>
          <span className="form" style={{ margin: 0 }}>
            <Entry
              id="journey-count"
              style={{ width: 90 }}
              inputMode="numeric"
              value={goods.count}
              onChange={(e) => setGoods({ ...goods, count: e.target.value })}
            />
            <span className="quiet">{item?.units[0]?.code}</span>
          </span>
          <label className="quiet" htmlFor="journey-kind">
            On
          </label>
          <Pick
            id="journey-kind"
            value={goods.kind}
            onChange={(e) => setGoods({ ...goods, kind: e.target.value as Kind })}
          >
            {KINDS.filter(([kind]) => !GOES_OUT.includes(kind)).map(([kind, says]) => (
              <option key={kind} value={kind}>
                {says}
              </option>
            ))}
          </Pick>
          <label className="quiet" htmlFor="journey-partner">
            From
          </label>
          <Pick
            id="journey-partner"
            value={goods.partner}
            onChange={(e) => setGoods({ ...goods, partner: e.target.value })}
          >
            <option value="">somebody who suits</option>
            {ground.data?.partners.map((p) => (
              <option key={p.code} value={p.code}>
                {p.name}
              </option>
            ))}
          </Pick>
        </div>
      )}
      {!goods && (
        <div className="ask">
          <label className="quiet" htmlFor="journey-order">
            Order
          </label>
          <Pick
            id="journey-order"
            value={order}
            onChange={(e) => {
              setLine(0)
              setOrder(e.target.value)
            }}
          >
            {ground.data?.orders.map((o) => (
              <option key={o.number} value={o.number}>
                {o.number}, {o.partner}
              </option>
            ))}
          </Pick>
        </div>
      )}
      {ground.data && orders.length === 0 && (
        <p className="empty">There is no order here yet. Make a test order on Orders.</p>
      )}
      {answer.error && <p className="mark fails">✕ {answer.error.message}</p>}
      {way && !goods && way.lines.length > 1 && (
        <ul className="journey lines" aria-label="Lines">
          {way.lines.map((goes) => (
            <li key={goes.plan}>
              <button className="link" onClick={() => setLine(goes.lines[0] ?? 0)}>
                {goes.lines.length > 1 ? `Lines ${goes.lines.join(', ')}` : `Line ${goes.lines[0]}`}
              </button>{' '}
              {goes.plan ? `by ${goes.plan}` : 'by no plan'}
            </li>
          ))}
        </ul>
      )}
      {way && (
        <>
          {way.stations.length === 0 && (
            <p className="mark fails">
              ■ No plan receives {goods ? 'such an order' : way.lines.length > 1 ? 'this line' : 'this order'}: it never
              reaches a handset.
            </p>
          )}
          <ol className="journey">
            {way.stations.map((station) => (
              <li key={station}>
                <Told text={station} />
              </li>
            ))}
          </ol>
          <ol className="trail">
            {way.plans.map((plan) => (
              <li key={plan.plan} className={plan.applies ? 'chosen' : ''}>
                <span className="mark">{plan.applies ? '✓' : '–'}</span>
                <span>
                  <b>{plan.name}</b> {plan.applies ? 'applies' : 'does not apply'}: <Told text={plan.says} />
                </span>
              </li>
            ))}
          </ol>
          {task && (
            <>
              <h3>Its task</h3>
              <TasksShown preview={{ tasks: [task], left: [], inspections: [], short: [] }} />
            </>
          )}
        </>
      )}
    </aside>
  )
}
