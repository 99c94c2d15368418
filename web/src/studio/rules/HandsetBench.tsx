import Button from '@mui/material/Button'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Pick } from '../parts/controls'
import { DRAFT } from '../parts/data'
import { HandPanel } from '../parts/HandPanel'
import { CostBench } from './CostBench'

/** A world of the draft as it stands, with an order to receive and a plate to put away, for trying flows: in the hands of
 * anybody who sees one. */
export default function HandsetBench({
  me,
  rulebook,
  crews,
  flows,
}: {
  me: Shape['Me']
  rulebook: string
  crews: string[]
  flows: { id: string; name: string }[]
}) {
  const [tries, setTries] = useState(0)
  const [chosen, setChosen] = useState('')
  const people = useQuery({ queryKey: ['people'], queryFn: () => got(client.GET('/api/people')) })
  const hands = people.data?.people.filter((p) => p.crews.some((c) => crews.includes(c))) ?? []
  const most = [...hands].sort((a, b) => seen(b) - seen(a))[0]
  const person = hands.find((p) => p.id === chosen) ?? most
  function seen(p: Shape['PersonView']) {
    return p.crews.filter((c) => crews.includes(c)).length + (p.crews.includes(crews[0] ?? '') ? 0.5 : 0)
  }
  const mayTry = me.rights.includes('rehearse')
  const world = useQuery({
    queryKey: ['bench', 'handset', rulebook, tries],
    enabled: mayTry,
    staleTime: Infinity,
    retry: false,
    queryFn: () => got(client.POST('/api/worlds', { body: { name: 'Handset bench', draft: DRAFT, book_seconds: 2 } })),
  })
  return (
    <aside className="bench" aria-label="Bench">
      <h2>
        Bench <small className="quiet">the draft on a handset</small>
      </h2>
      {!mayTry && <p className="quiet">Your role may look, not try.</p>}
      {world.error && <p className="mark fails">✕ {world.error.message}</p>}
      {world.data && (
        <>
          {person && (
            <Pick
              style={{ marginBottom: 10 }}
              aria-label="Whose hands"
              value={person.id}
              onChange={(e) => setChosen(e.target.value)}
            >
              {hands.map((p) => (
                <option key={p.id} value={p.id}>
                  {p.name}
                </option>
              ))}
            </Pick>
          )}
          {person ? (
            <HandPanel
              key={person.id}
              world={world.data.id}
              device={`H${hands.indexOf(person) + 1}`}
              person={person.id}
              keepFocus={false}
            />
          ) : (
            people.data && (
              <p className="empty">
                Nobody of this draft’s crews sees a flow yet. Give a crew a menu here, and put somebody into it on{' '}
                <Link className="link" to="/people">
                  People
                </Link>
                .
              </p>
            )
          )}
          <div className="form">
            <Button onClick={() => setTries(tries + 1)}>Begin again</Button>
            <Link className="link quiet" to={`/desk/${world.data.id}`}>
              Take this run to a desk
            </Link>
          </div>
        </>
      )}
      <CostBench flows={flows} rulebook={rulebook} />
    </aside>
  )
}
