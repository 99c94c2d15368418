import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { client, got } from '../../shared/client'
import { DRAFT, useDraft, useGround } from '../parts/data'
import { Pick, Tick } from '../parts/controls'
import { TasksShown } from '../parts/TasksShown'

/** Orders whose goods are supposed to have come, or that are supposed to be released, and the tasks that the recipes would make of them. */
export default function TaskBench({ need }: { need: 'put_away' | 'pick' }) {
  const picks = need === 'pick'

  const ground = useGround()
  const draft = useDraft()
  const [chosen, setChosen] = useState<string[]>([])
  const [together, setTogether] = useState(false)
  const orders = (ground.data?.orders ?? []).filter((o) => o.inbound !== picks)
  const known = chosen.filter((c) => orders.some((o) => o.number === c))
  const first = orders[0]?.number
  const asked = known.length ? known : first ? [first] : []
  const answer = useQuery({
    queryKey: ['bench', 'tasks', need, asked.join(), together, draft.data?.rulebook],
    enabled: asked.length > 0 && !!draft.data,
    placeholderData: (before) => before,
    queryFn: () =>
      got(
        client.POST('/api/drafts/{id}/bench/tasks', {
          params: { path: { id: DRAFT } },
          body: { need, orders: asked, together: together && !picks, world: null },
        }),
      ),
  })
  const rest = orders.filter((o) => !asked.includes(o.number))
  return (
    <aside className="bench" aria-label="Bench">
      <h2>
        Bench{' '}
        <small className="quiet">{picks ? 'these orders give these tasks' : 'these receipts give these tasks'}</small>
      </h2>
      <ul className="chosen" aria-label={picks ? 'Orders' : 'Receipts'}>
        {asked.map((number) => (
          <li key={number}>
            <span className="code">{number}</span> {orders.find((o) => o.number === number)?.partner}{' '}
            {asked.length > 1 && (
              <button
                className="link quiet"
                aria-label={`Without ${number}`}
                onClick={() => setChosen(asked.filter((a) => a !== number))}
              >
                leave out
              </button>
            )}
          </li>
        ))}
      </ul>
      <div className="ask">
        <label className="quiet" htmlFor="task-order">
          And
        </label>
        <Pick id="task-order" value="" onChange={(e) => setChosen([...asked, e.target.value])}>
          <option value="" disabled>
            another order
          </option>
          {rest.map((o) => (
            <option key={o.number} value={o.number}>
              {o.number}, {o.partner}
            </option>
          ))}
        </Pick>
      </div>
      {!picks && (
        <label className="tick">
          <Tick checked={together} onChange={(e) => setTogether(e.target.checked)} /> as if the office gathered them
        </label>
      )}
      {ground.data && orders.length === 0 && (
        <p className="empty">There is no order here yet. Make a test order on Orders.</p>
      )}
      {answer.error && <p className="mark fails">✕ {answer.error.message}</p>}
      {answer.data && !answer.error && <TasksShown preview={answer.data} />}
      <p className="quiet">
        {picks
          ? 'Supposed: they are released now, and picked one at a time. Nothing is kept or made.'
          : 'Supposed: all that is open of them comes now, each line on a plate. Nothing is made.'}
      </p>
    </aside>
  )
}
