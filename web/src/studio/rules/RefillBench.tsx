import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { client, got, type Shape } from '../../shared/client'
import { Entry, Pick } from '../parts/controls'
import { DRAFT, useDraft, useGround } from '../parts/data'
import { ItemPick } from '../parts/ItemPick'
import { TasksShown } from '../parts/TasksShown'

type Cause = Shape['Cause']

/** What would be brought of an item from reserve: by which recipe, from where, to which shelf. */
export default function RefillBench() {
  const draft = useDraft()
  const homes = useGround().data?.homes ?? []
  const [chosen, setChosen] = useState('')
  const [cause, setCause] = useState<Cause>('wanted')
  const [much, setMuch] = useState('30')
  const item = chosen || homes[0] || ''
  const quantity = Math.max(1, Math.floor(Number(much)) || 1)
  const answer = useQuery({
    queryKey: ['bench', 'refills', item, cause, quantity, draft.data?.rulebook],
    enabled: !!item && !!draft.data,
    placeholderData: (before) => before,
    queryFn: () =>
      got(
        client.POST('/api/drafts/{id}/bench/refills', {
          params: { path: { id: DRAFT } },
          body: { item, quantity, cause, world: null },
        }),
      ),
  })
  return (
    <aside className="bench" aria-label="Bench">
      <h2>
        Bench <small className="quiet">this is brought from reserve</small>
      </h2>
      <div className="ask">
        <span className="quiet">Of</span>
        <ItemPick code={item} choose={setChosen} />
      </div>
      <div className="ask">
        <label className="quiet" htmlFor="refill-cause">
          Because
        </label>
        <Pick id="refill-cause" value={cause} onChange={(e) => setCause(e.target.value as Cause)}>
          <option value="wanted">orders lack it on the shelves</option>
          <option value="least">shelves hold less than their least</option>
          <option value="fill">the office fills its shelves</option>
        </Pick>
      </div>
      {cause === 'wanted' && (
        <div className="ask">
          <label className="quiet" htmlFor="refill-much">
            So many
          </label>
          <Entry id="refill-much" type="number" value={much} onChange={(e) => setMuch(e.target.value)} />
        </div>
      )}
      {answer.error && <p className="mark fails">✕ {answer.error.message}</p>}
      {answer.data && !answer.error && <TasksShown preview={answer.data} />}
      <p className="quiet">
        Supposed: it is asked for now, as the floor stands at its opening. Nothing is kept or made.
      </p>
    </aside>
  )
}
