import Button from '@mui/material/Button'
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useContext, useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { when } from '../../shared/when'
import { Entry, Pick } from '../parts/controls'
import { Say } from '../parts/data'
import { Skeleton } from '../parts/Skeleton'
import { TabRow } from '../parts/TabRow'
import { mayDo, NoFloor, useOffice, useWorld, WorldPicker } from '../parts/WorldPicker'
import type { Act } from './lists'

type Row = Shape['WaveRow']
type Stands = Row['stands']
/** How far a wave is: its mark, its colour, and the words. */
const STANDS: Record<Stands, [string, string, string]> = {
  gathered: ['◌', 'info', 'gathered'],
  held: ['–', 'doubt', 'held'],
  let_go: ['●', 'info', 'let go'],
  in_progress: ['●', 'holds', 'in progress'],
  done: ['✓', 'holds', 'done'],
  cancelled: ['✕', 'quiet', 'cancelled'],
}

/** The waves of a floor: what waits for one, how far each is, and its orders, lines and tasks; made, let go, held, changed, cancelled. */
export default function WaveBoard({ me }: { me: Shape['Me'] }) {
  const chosen = useWorld('live')
  const [query, setQuery] = useSearchParams()
  const [answer, setAnswer] = useState<{ done: boolean; says: string } | null>(null)
  const world = chosen.world?.id ?? ''
  const view = useQuery({
    queryKey: ['world', world, 'waves'],
    enabled: !!world,
    queryFn: () => got(client.GET('/api/worlds/{id}/waves', { params: { path: { id: world } } })),
  })
  const office = useOffice(world, true)
  const say = useContext(Say)
  const queries = useQueryClient()
  const pin = useMutation({
    mutationFn: (w: Row) =>
      got(
        client.POST('/api/worlds/{id}/pins', {
          params: { path: { id: world } },
          body: {
            seq: null,
            expectation: {
              kind: 'wave',
              wave: { kind: 'text', text: w.number },
              stands: w.stands,
              tasks: w.open + w.at_work,
              orders: null,
            },
          },
        }),
      ),
    onSuccess: (w) => {
      queries.setQueryData(['world', world], w)
      say('Pinned: so it must be at the end of the run.', [], true)
    },
    onError: (e) => say(e.message),
  })
  const show = (wave: string) => {
    const next = new URLSearchParams(query)
    if (wave) next.set('wave', wave)
    else next.delete('wave')
    setQuery(next, { replace: true })
  }
  const act = (a: Act) =>
    office.mutate(a, {
      onSuccess: ({ entry }) => {
        setAnswer({ done: entry.done, says: entry.says })
        if (a.kind === 'make_wave' && entry.done) show('') // the latest, which it is
      },
      onError: (e) => setAnswer({ done: false, says: e.message }),
    })
  const may = mayDo(me, chosen.world, 'make_wave')
  const waves = view.data?.waves ?? []
  const one = waves.find((w) => w.number === query.get('wave')) ?? waves[0]
  return (
    <div className="page halves">
      <main className="main">
        <h1>Wave board</h1>
        <p className="lead">
          Released orders that are worked together. What no plan takes goes at once, each release in a wave of its own.
        </p>
        {chosen.worlds.length > 0 && (
          <div className="form">
            <WorldPicker {...chosen} />
          </div>
        )}
        {chosen.worlds.length === 0 && <NoFloor />}
        {view.error && <p className="empty">{view.error.message}</p>}
        {answer && (
          <p className="banner" role="status">
            <span className={`mark ${answer.done ? 'holds' : 'fails'}`} style={{ whiteSpace: 'normal' }}>
              {answer.done ? '✓' : '✕'} <Told text={answer.says} />
            </span>
            <button className="link" onClick={() => setAnswer(null)}>
              Close
            </button>
          </p>
        )}
        {!view.data ? (
          world && !view.error && <Skeleton />
        ) : (
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
      </main>
      <aside className="bench" aria-label="Chosen wave">
        {one && world && (
          <Inside
            key={one.number}
            world={world}
            number={one.number}
            act={act}
            may={(k) => mayDo(me, chosen.world, k)}
            pin={chosen.world?.kind === 'rehearsal' && may ? (w) => pin.mutate(w) : undefined}
          />
        )}
      </aside>
    </div>
  )
}

function Stand({ of }: { of: Row }) {
  const [mark, kind, words] = STANDS[of.stands]
  return (
    <span className={`mark ${kind}`}>
      {mark} {words}
    </span>
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

type Part = 'orders' | 'lines' | 'tasks'
type InsideProps = {
  world: string
  number: string
  act: (a: Act) => void
  may: (kind: string) => boolean
  pin?: (w: Row) => void
}

/** A wave with its orders, lines and tasks; each leads to the others. */
function Inside({ world, number, act, may, pin }: InsideProps) {
  const [part, setPart] = useState<Part>('orders')
  const [of, setOf] = useState('')
  const [why, setWhy] = useState('')
  const [joins, setJoins] = useState('')
  const view = useQuery({
    queryKey: ['world', world, 'wave', number],
    placeholderData: keepPreviousData,
    queryFn: () =>
      got(client.GET('/api/worlds/{id}/wave', { params: { path: { id: world }, query: { wave: number } } })),
  })
  if (view.error) return <p className="empty">{view.error.message}</p>
  if (!view.data) return <Skeleton />
  const { wave: w, orders, lines, tasks, may_join: others } = view.data
  const given = why.trim().length >= 3
  const ended = w.stands === 'done' || w.stands === 'cancelled'
  const look = (to: Part, at: string) => (setPart(to), setOf(at))
  const does = (a: Act) => (act(a), setWhy(''))
  const shown = {
    orders: orders.filter((o) => !of || o.number === of || o.tasks.includes(of)),
    lines: lines.filter((l) => !of || l.order === of || l.tasks.includes(of)),
    tasks: tasks.filter((t) => !of || t.number === of || t.orders.includes(of)),
  }
  return (
    <>
      <h2>
        <span>
          Wave <span className="code">{number}</span> <Stand of={w} />
        </span>
        <small className="quiet">
          {w.name}, {w.method}{' '}
          {pin && (
            <button className="link" onClick={() => pin(w)}>
              Pin how it stands
            </button>
          )}
        </small>
      </h2>
      {w.held && <p className="mark doubt">– Held: {w.held}</p>}
      {!ended && may('let_wave_go') && (
        <div className="form">
          {(w.stands === 'gathered' || w.held) && (
            <Button variant="contained" onClick={() => does({ kind: 'let_wave_go', wave: number })}>
              Let it go
            </Button>
          )}
          <Entry
            aria-label="Reason"
            placeholder="why; the log keeps it"
            style={{ flex: 1, minWidth: 120 }}
            value={why}
            maxLength={120}
            onChange={(e) => setWhy(e.target.value)}
          />
          {!w.held && w.stands !== 'gathered' && (
            <Button disabled={!given} onClick={() => does({ kind: 'hold_wave', wave: number, why: why.trim() })}>
              Hold
            </Button>
          )}
          <Button disabled={!given} onClick={() => does({ kind: 'cancel_wave', wave: number, why: why.trim() })}>
            Cancel the wave
          </Button>
        </div>
      )}
      <TabRow
        label="Of this wave"
        tabs={[
          ['orders', `Orders ${orders.length || ''}`.trim(), 0],
          ['lines', `Lines ${lines.length || ''}`.trim(), 0],
          ['tasks', `Tasks ${tasks.length || ''}`.trim(), 0],
        ]}
        value={part}
        choose={(p) => setPart(p as Part)}
      />
      {of && (
        <p>
          Only of <span className="code">{of}</span>{' '}
          <button className="link" onClick={() => setOf('')}>
            Show all
          </button>
        </p>
      )}
      {part === 'orders' && (
        <>
          <table className="plain" aria-label="Orders of the wave">
            <tbody>
              {shown.orders.map((o) => (
                <tr key={o.number}>
                  <td>
                    <button className="link code" onClick={() => look('lines', o.number)}>
                      {o.number}
                    </button>
                    <div className="quiet">{o.shipment}</div>
                  </td>
                  <td>
                    {o.partner}
                    <div className="quiet">leaves on {o.day}</div>
                  </td>
                  <td>
                    {o.tasks.length > 0 && (
                      <button className="link" onClick={() => look('tasks', o.number)}>
                        {o.tasks.length === 1 ? '1 task' : `${o.tasks.length} tasks`}
                      </button>
                    )}
                  </td>
                  <td>
                    {!ended && may('take_out_of_wave') && (
                      <button
                        className="link"
                        disabled={!o.leaves || !given}
                        title={o.leaves ? 'Say why above' : 'A task of it has begun'}
                        aria-label={`Take ${o.number} out`}
                        onClick={() =>
                          does({ kind: 'take_out_of_wave', wave: number, order: o.number, why: why.trim() })
                        }
                      >
                        Take out
                      </button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {others.length > 0 && may('add_to_wave') && (
            <div className="form">
              <Pick aria-label="Order that joins" value={joins} onChange={(e) => setJoins(e.target.value)}>
                <option value="">an order that waits</option>
                {others.map((o) => (
                  <option key={o} value={o}>
                    {o}
                  </option>
                ))}
              </Pick>
              <Button
                disabled={!others.includes(joins)}
                onClick={() => does({ kind: 'add_to_wave', wave: number, order: joins })}
              >
                Let it join
              </Button>
            </div>
          )}
        </>
      )}
      {part === 'lines' && (
        <table className="plain" aria-label="Lines of the wave">
          <tbody>
            {shown.lines.map((l) => (
              <tr key={`${l.order} ${l.line}`}>
                <td>
                  <span className="code">
                    {l.order}/{l.line}
                  </span>
                </td>
                <td>
                  {l.name}
                  <div className="quiet">{l.wants} ordered</div>
                </td>
                <td>
                  {l.fetched.toLocaleString('en')} of {l.kept.toLocaleString('en')} {l.unit} fetched
                </td>
                <td>
                  {l.tasks.map((t) => (
                    <span key={t}>
                      <button className="link mono" onClick={() => look('tasks', t)}>
                        {t}
                      </button>{' '}
                    </span>
                  ))}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {part === 'tasks' && (
        <table className="plain" aria-label="Tasks of the wave">
          <tbody>
            {shown.tasks.map((t) => (
              <tr key={t.number}>
                <td>
                  <Link className="link mono" to={`/documents?world=${world}&doc=${t.number}`}>
                    {t.number}
                  </Link>
                  <div className="quiet">{t.stands}</div>
                </td>
                <td>
                  {t.crew}
                  {t.person && (
                    <div>
                      <Told text={`@${t.person}`} />
                    </div>
                  )}
                </td>
                <td>
                  {t.lines === 1 ? '1 line' : `${t.lines} lines`} of{' '}
                  {t.orders.map((o) => (
                    <span key={o}>
                      <button className="link code" onClick={() => look('lines', o)}>
                        {o}
                      </button>{' '}
                    </span>
                  ))}
                  <div className="quiet">
                    {t.bins.slice(0, 4).join(', ')}
                    {t.bins.length > 4 && ` and ${t.bins.length - 4} more`} → {t.to ?? 'a bin the worker chooses'}
                  </div>
                  {t.held && <div className="mark doubt">– {t.held}</div>}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {shown[part].length === 0 && (
        <p className="empty">
          {w.stands === 'gathered' ? 'Nothing is kept yet, and no task made: let it go first.' : 'There are none.'}
        </p>
      )}
    </>
  )
}
