import Button from '@mui/material/Button'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { DRAFT } from '../parts/data'
import { HandPanel } from '../parts/HandPanel'

/** A world of the draft as it stands, with an order to receive and a plate to put away, for trying flows. */
export default function HandsetBench({ me, rulebook }: { me: Shape['Me']; rulebook: string }) {
  const [tries, setTries] = useState(0)
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
          <HandPanel world={world.data.id} device="H1" person="mara" keepFocus={false} />
          <div className="form">
            <Button onClick={() => setTries(tries + 1)}>Begin again</Button>
            <Link className="link quiet" to={`/desk/${world.data.id}`}>
              Take this run to a desk
            </Link>
          </div>
        </>
      )}
    </aside>
  )
}
