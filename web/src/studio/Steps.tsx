import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { client, got, type Shape } from '../shared/client'
import { Told } from '../shared/Told'
import { Skeleton } from './BinRules'
import { DRAFT, useDraft, useEdits, useGround, valueAt } from './data'
import { Findings } from './Findings'
import { Words } from './Words'

type Plan = { name: string; put_away: { on: boolean }; receive: { into: string } }

/** Step plans as sentences and as a map of stations, from the door to the bin. */
export default function Steps({ me }: { me: Shape['Me'] }) {
  const draft = useDraft()
  const { edit } = useEdits()
  const mayEdit = me.rights.includes('edit_rulebook')
  return (
    <div className="page">
      <main className="main">
        <h1>Receipt steps</h1>
        <p className="lead">One whole plan holds for an order: that of its kind before the one for all orders.</p>
        {!draft.data ? (
          <Skeleton />
        ) : (
          <>
            {draft.data.step_plans.map((plan) => {
              const values = valueAt(draft.data.book, plan.path) as Plan
              return (
                <section key={plan.id} className="card rule" style={{ display: 'block', position: 'relative' }}>
                  <h2>{values.name}</h2>
                  <Stations plan={values} />
                  <Words parts={plan.parts} book={draft.data.book} edit={edit} mayEdit={mayEdit} />
                  <div className="under">
                    <Findings of={draft.data} under={plan.path} />
                  </div>
                </section>
              )
            })}
            <h2>What becomes a task</h2>
            {draft.data.recipes.map((recipe) => (
              <section key={recipe.id} className="card">
                <div className="sentence">{recipe.parts.map((p) => p.text).join('')}</div>
                <div className="under">
                  <span>This recipe is fixed for now.</span>
                  <Findings of={draft.data} under={recipe.path} />
                </div>
              </section>
            ))}
          </>
        )}
      </main>
      <JourneyBench />
    </div>
  )
}

/** One order's journey: which plan applies, why the others do not, what happens to its goods. */
function JourneyBench() {
  const ground = useGround()
  const draft = useDraft()
  const [chosen, setOrder] = useState('PO-1007')
  const orders = ground.data?.orders ?? []
  const order = orders.some((o) => o.number === chosen) ? chosen : (orders[0]?.number ?? '')
  const answer = useQuery({
    queryKey: ['bench', 'steps', order, draft.data?.rulebook],
    enabled: order !== '',
    placeholderData: (before) => before,
    queryFn: () =>
      got(client.POST('/api/drafts/{id}/bench/steps', { params: { path: { id: DRAFT } }, body: { order } })),
  })
  return (
    <aside className="bench" aria-label="Bench">
      <h2>
        Bench <small className="quiet">what happens to an order</small>
      </h2>
      <div className="ask">
        <label className="quiet" htmlFor="journey-order">
          Order
        </label>
        <select id="journey-order" className="select" value={order} onChange={(e) => setOrder(e.target.value)}>
          {ground.data?.orders.map((o) => (
            <option key={o.number} value={o.number}>
              {o.number}, {o.partner}
            </option>
          ))}
        </select>
      </div>
      {ground.data && orders.length === 0 && (
        <p className="empty">There is no order here yet. Make a test order on Orders.</p>
      )}
      {answer.error && <p className="mark fails">✕ {answer.error.message}</p>}
      {answer.data && (
        <>
          {answer.data.stations.length === 0 && (
            <p className="mark fails">■ No plan receives this order: it never reaches a handset.</p>
          )}
          <ol className="journey">
            {answer.data.stations.map((station) => (
              <li key={station}>
                <Told text={station} />
              </li>
            ))}
          </ol>
          <ol className="trail">
            {answer.data.plans.map((plan) => (
              <li key={plan.plan} className={plan.applies ? 'chosen' : ''}>
                <span className="mark">{plan.applies ? '✓' : '–'}</span>
                <span>
                  <b>{plan.name}</b> {plan.applies ? 'applies' : 'does not apply'}: <Told text={plan.says} />
                </span>
              </li>
            ))}
          </ol>
        </>
      )}
    </aside>
  )
}

function Stations({ plan }: { plan: Plan }) {
  const away = plan.put_away.on
  return (
    <div
      className="stations"
      role="img"
      aria-label={`Door, receive into ${plan.receive.into}, ${away ? 'put away by the bin rules' : 'stay there'}`}
    >
      <span className="station">Door</span>
      <i />
      <span className="station">
        Receive <span className="code">{plan.receive.into}</span>
      </span>
      <i />
      <span className={`station${away ? '' : ' off'}`}>{away ? 'Put away' : 'No put-away'}</span>
      {away && (
        <>
          <i />
          <span className="station">the bin the rules choose</span>
        </>
      )}
    </div>
  )
}
