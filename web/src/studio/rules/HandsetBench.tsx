import Button from '@mui/material/Button'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Pick } from '../parts/controls'
import { DRAFT, useGround } from '../parts/data'
import { useOffice } from '../parts/WorldPicker'
import { HandPanel } from '../parts/HandPanel'
import { CostBench } from './CostBench'

/** Has a few orders released in a world, so that there is something to pick with a flow that picks. */
function SomethingToPick({ world, done }: { world: string; done: () => void }) {
  const act = useOffice(world)
  const [had, setHad] = useState('')
  const ground = useGround()
  const orders = (ground.data?.orders ?? []).filter((o) => !o.inbound).slice(0, MANY)
  async function have() {
    for (const o of orders) if (!o.confirmed) await act.mutateAsync({ kind: 'confirm_order', order: o.number })
    await act.mutateAsync({ kind: 'wait', seconds: 60 })
    const numbers = orders.map((o) => o.number)
    await act.mutateAsync({ kind: 'release_orders', orders: numbers, warned: true, whole: false, dry: false })
    const board = await got(client.GET('/api/worlds/{id}/waves', { params: { path: { id: world } } }))
    for (const w of board.awaited)
      await act.mutateAsync({ kind: 'make_wave', plan: w.plan, orders: w.plan ? [] : w.orders })
    const made = await got(client.GET('/api/worlds/{id}/waves', { params: { path: { id: world } } }))
    for (const w of made.waves)
      if (w.stands === 'held' || w.stands === 'gathered') await act.mutateAsync({ kind: 'let_wave_go', wave: w.number })
    done()
  }
  if (!orders.length) return null
  return (
    <Button disabled={had === world} onClick={() => (setHad(world), void have().catch(() => setHad('')))}>
      Have something to pick
    </Button>
  )
}

/** How many orders are released for that, at most. */
const MANY = 6

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
  const [stocked, setStocked] = useState('')
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
              key={`${person.id} ${stocked === world.data.id}`}
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
            <SomethingToPick world={world.data.id} done={() => setStocked(world.data.id)} />
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
