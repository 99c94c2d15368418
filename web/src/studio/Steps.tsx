import type { Shape } from '../shared/client'
import { Skeleton } from './BinRules'
import { useDraft, useEdits, valueAt } from './data'
import { Findings } from './Findings'
import { Words } from './Words'

type Plan = { name: string; put_away: { on: boolean }; receive: { into: string }; booking: string }

/** Step plans as sentences and as a map of stations, from the door to the bin. */
export default function Steps({ me }: { me: Shape['Me'] }) {
  const draft = useDraft()
  const { edit } = useEdits()
  const mayEdit = me.rights.includes('edit_rulebook')
  return (
    <div className="page wide">
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
    </div>
  )
}

const TOLD: Record<string, string> = { plate_finished: 'host told here', put_away: '', by_hand: '' }

function Stations({ plan }: { plan: Plan }) {
  const away = plan.put_away.on
  return (
    <div className="stations" role="img" aria-label={`Door, receive into ${plan.receive.into}, ${away ? 'put away by the bin rules' : 'stay there'}`}>
      <span className="station">Door</span>
      <i />
      <span className="station">
        Receive <span className="code">{plan.receive.into}</span> <span className="quiet">{TOLD[plan.booking]}</span>
      </span>
      <i />
      <span className={`station${away ? '' : ' off'}`}>
        {away ? 'Put away' : 'No put-away'} <span className="quiet">{plan.booking === 'put_away' ? 'host told here' : ''}</span>
      </span>
      {away && (
        <>
          <i />
          <span className="station">the bin the rules choose</span>
        </>
      )}
    </div>
  )
}
