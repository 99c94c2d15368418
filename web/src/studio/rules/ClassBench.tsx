import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { DRAFT, useDraft } from '../parts/data'
import { FloorAsked, NoAnswer } from '../parts/bench'
import { Pick } from '../parts/controls'

type Sorted = Shape['SortedView']
const TWICE = 'twice'
const NONE = '-'

/** All open orders with the class the draft finds for each: by which it passed, and which others would take it too. */
export default function ClassBench() {
  const draft = useDraft()
  const [world, setWorld] = useState('')
  const [which, setWhich] = useState('')
  const answer = useQuery({
    queryKey: ['bench', 'classes', world, which, draft.data?.rulebook],
    enabled: !!draft.data,
    placeholderData: (before) => before,
    retry: false,
    queryFn: () =>
      got(
        client.POST('/api/drafts/{id}/bench/classes', {
          params: { path: { id: DRAFT } },
          body: { world: world || null, of: which === TWICE ? '' : which, twice: which === TWICE },
        }),
      ),
  })
  const data = answer.data
  const every = data ? data.none + data.classes.reduce((n, c) => n + c.orders, 0) : 0
  return (
    <aside className="bench" aria-label="Bench">
      <h2>
        Bench <small className="quiet">which order is of which class</small>
      </h2>
      <div className="ask">
        <FloorAsked id="class-floor" value={world} set={setWorld} />
        <label className="quiet" htmlFor="class-which">
          Orders
        </label>
        <Pick id="class-which" value={which} onChange={(e) => setWhich(e.target.value)}>
          <option value="">all {every}</option>
          {data?.classes.map((c) => (
            <option key={c.id} value={c.id}>
              {c.orders} of {c.name}
            </option>
          ))}
          <option value={NONE}>{data?.none ?? 0} of no class</option>
          <option value={TWICE}>{data?.twice ?? 0} that more than one would take</option>
        </Pick>
      </div>
      <NoAnswer error={answer.error} />
      {data && !answer.error && data.orders.length === 0 && <p className="empty">No open order is so.</p>}
      <ul className="gated" aria-label="Orders and their classes">
        {data?.orders.map((o) => (
          <Order key={o.order} of={o} />
        ))}
      </ul>
      {data && data.total > data.orders.length && (
        <p className="quiet">
          The first {data.orders.length} of {data.total.toLocaleString('en')}.
        </p>
      )}
    </aside>
  )
}

/** One order: its class, what else would take it, and why others do not. */
function Order({ of: o }: { of: Sorted }) {
  return (
    <li>
      <details>
        <summary>
          <span className="code">{o.order}</span> {o.partner}
          <span className={`mark ${o.name ? 'holds' : 'quiet'}`}>{o.name ? `● ${o.name}` : '○ none'}</span>
        </summary>
        <p className="quiet" style={{ margin: '2px 0' }}>
          It is {o.kind}.
          {o.fits.length > 0 &&
            ` ${o.fits.join(' and ')} would take it too, and ${o.fits.length > 1 ? 'stand' : 'stands'} after ${o.name}.`}
        </p>
        {o.others.length > 0 && (
          <ul>
            {o.others.map((x) => (
              <li key={x.name}>
                Not {x.name}: <Told text={x.says} />.
              </li>
            ))}
          </ul>
        )}
      </details>
    </li>
  )
}
