import Button from '@mui/material/Button'
import { useQuery } from '@tanstack/react-query'
import { Link, useSearchParams } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { when } from '../../shared/when'
import { useAnswered, usePin } from '../parts/Answered'
import { Board } from '../parts/Board'
import { mayDo, useWorld } from '../parts/WorldPicker'
import type { Act } from './lists'
import { Inside, Stand } from './WaveInside'

type Row = Shape['WaveRow']
/** The waves of a floor: what waits for one, how far each is, and its orders, lines and tasks; made, let go, held, changed, cancelled. */
export default function WaveBoard({ me }: { me: Shape['Me'] }) {
  const chosen = useWorld('live')
  const [query, setQuery] = useSearchParams()
  const world = chosen.world?.id ?? ''
  const view = useQuery({
    queryKey: ['world', world, 'waves'],
    enabled: !!world,
    queryFn: () => got(client.GET('/api/worlds/{id}/waves', { params: { path: { id: world } } })),
  })
  const pin = usePin(world)
  const show = (wave: string) => {
    const next = new URLSearchParams(query)
    if (wave) next.set('wave', wave)
    else next.delete('wave')
    setQuery(next, { replace: true })
  }
  const answered = useAnswered(world, (a) => a.kind === 'make_wave' && show('')) // the latest, which it is
  const act = answered.act
  const may = mayDo(me, chosen.world, 'make_wave')
  const waves = view.data?.waves ?? []
  const one = waves.find((w) => w.number === query.get('wave')) ?? waves[0]
  return (
    <Board
      title="Wave board"
      lead={
        <>
          Released orders that are worked together. What no plan takes goes at once, each release in a wave of its own.
        </>
      }
      chosen={chosen}
      view={view}
      says={answered.shown}
      beside="Chosen wave"
      inside={
        one &&
        world && (
          <Inside
            key={one.number}
            world={world}
            number={one.number}
            act={act}
            may={(k) => mayDo(me, chosen.world, k)}
            pin={
              chosen.world?.kind === 'rehearsal' && may
                ? (w) =>
                    pin({
                      kind: 'wave',
                      wave: { kind: 'text', text: w.number },
                      stands: w.stands,
                      tasks: w.open + w.at_work,
                      orders: null,
                    })
                : undefined
            }
          />
        )
      }
    >
      {view.data && (
        <>
          {view.data.awaited.length > 0 && (
            <>
              <h2 style={{ marginBottom: 0 }}>Waiting for a wave</h2>
              <ul className="awaited" aria-label="Waiting for a wave">
                {view.data.awaited.map((w) => (
                  <Awaited key={w.plan ?? ''} of={w} make={may ? act : undefined} />
                ))}
              </ul>
            </>
          )}
          {waves.length === 0 ? (
            <p className="empty">
              No wave yet. Orders are released on{' '}
              <Link className="link" to={`/release?world=${world}`}>
                Release
              </Link>
              .
            </p>
          ) : (
            <table className="plain rows" aria-label="Waves">
              <thead>
                <tr>
                  <th>Wave</th>
                  <th>Of</th>
                  <th>Stands</th>
                  <th style={{ textAlign: 'right' }}>Orders</th>
                  <th>Tasks</th>
                  <th>Made</th>
                </tr>
              </thead>
              <tbody>
                {waves.map((w) => (
                  <tr key={w.number} aria-current={w === one ? 'true' : undefined}>
                    <td>
                      <button className="link code" onClick={() => show(w.number)}>
                        {w.number}
                      </button>
                    </td>
                    <td>
                      {w.name}
                      <div className="quiet">{w.method}</div>
                    </td>
                    <td>
                      <Stand of={w} />
                    </td>
                    <td className="mono" style={{ textAlign: 'right' }}>
                      {w.orders}
                    </td>
                    <td>
                      <Done of={w} />
                    </td>
                    <td>{when(w.made, view.data.time_zone, true)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </>
      )}
    </Board>
  )
}

/** How many tasks are done of how many, and how many are at work. */
function Done({ of: w }: { of: Row }) {
  const all = w.open + w.at_work + w.done
  if (all === 0) return <span className="quiet">none</span>
  return (
    <>
      {w.done} of {all} done
      {w.at_work > 0 && <span className="quiet">, {w.at_work} at work</span>}
    </>
  )
}

/** Orders that wait for a plan: when it runs, and a button that does not wait. */
function Awaited({ of: w, make }: { of: Shape['AwaitedView']; make?: (a: Act) => void }) {
  const count = w.orders.length === 1 ? '1 order' : `${w.orders.length} orders`
  return (
    <li>
      <span style={{ flex: 1 }}>
        <b>{count}</b> for {w.plan ? w.name : 'no plan any more'}
        {w.plan && <span className="quiet">, {w.runs ? `runs at ${w.runs}` : 'made by hand'}</span>}
        <div>
          {w.orders.slice(0, 8).map((o) => (
            <span key={o}>
              <span className="code">{o}</span>{' '}
            </span>
          ))}
          {w.orders.length > 8 && <span className="quiet">and {w.orders.length - 8} more</span>}
        </div>
      </span>
      {make && (
        <Button
          variant="contained"
          onClick={() => make({ kind: 'make_wave', plan: w.plan, orders: w.plan ? [] : w.orders })}
          aria-label={`Make the wave of ${w.plan ? w.name : 'what is for no plan'}`}
        >
          Make it now
        </Button>
      )}
    </li>
  )
}
