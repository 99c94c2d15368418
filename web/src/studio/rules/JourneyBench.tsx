import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { client, got } from '../../shared/client'
import { Told } from '../../shared/Told'
import { DRAFT, useDraft, useGround } from '../parts/data'
import { Pick } from '../parts/controls'
import { TasksShown } from '../parts/TasksShown'

/** One order's journey: which plan applies, why the others do not, what happens to its goods. */
export default function JourneyBench() {
  const ground = useGround()
  const draft = useDraft()
  const [chosen, setOrder] = useState('PO-1007')
  const [line, setLine] = useState(0)
  const orders = ground.data?.orders ?? []
  const order = orders.some((o) => o.number === chosen) ? chosen : (orders[0]?.number ?? '')
  const answer = useQuery({
    queryKey: ['bench', 'steps', order, line, draft.data?.rulebook],
    enabled: order !== '',
    placeholderData: (before) => before,
    queryFn: () =>
      got(client.POST('/api/drafts/{id}/bench/steps', { params: { path: { id: DRAFT } }, body: { order, line } })),
  })
  const way = answer.data?.way
  const task = answer.data?.task
  return (
    <aside className="bench" aria-label="Bench">
      <h2>
        Bench <small className="quiet">what happens to an order</small>
      </h2>
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
      {ground.data && orders.length === 0 && (
        <p className="empty">There is no order here yet. Make a test order on Orders.</p>
      )}
      {answer.error && <p className="mark fails">✕ {answer.error.message}</p>}
      {way && way.lines.length > 1 && (
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
              ■ No plan receives {way.lines.length > 1 ? 'this line' : 'this order'}: it never reaches a handset.
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
              <TasksShown preview={{ tasks: [task], left: [] }} />
            </>
          )}
        </>
      )}
    </aside>
  )
}
