import Button from '@mui/material/Button'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { lazy, Suspense, useState } from 'react'
import { Link } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { Entry, Pick } from '../parts/controls'
import { Skeleton } from '../parts/Skeleton'
import { TabRow } from '../parts/TabRow'
import type { Act } from './lists'

const WaveRounds = lazy(() => import('../parts/WaveRounds'))

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

/** How far a wave is, with its mark. */
export function Stand({ of }: { of: Row }) {
  const [mark, kind, words] = STANDS[of.stands]
  return (
    <span className={`mark ${kind}`}>
      {mark} {words}
    </span>
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
export function Inside({ world, number, act, may, pin }: InsideProps) {
  const [part, setPart] = useState<Part>('orders')
  const [of, setOf] = useState('')
  const [why, setWhy] = useState('')
  const [joins, setJoins] = useState('')
  const [onMap, setOnMap] = useState(false)
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
                    <div className="quiet">
                      leaves on {o.day}
                      {o.order_class && `, ${o.order_class}`}
                    </div>
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
                  {l.to_sort > 0 && `, ${l.to_sort.toLocaleString('en')} to sort`}
                  {l.waits && (
                    <div className="quiet">
                      <Told text={l.waits} />
                    </div>
                  )}
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
      {part === 'tasks' && !ended && tasks.length > 0 && (
        <div className="form">
          <Button onClick={() => setOnMap(true)}>Its rounds on the map</Button>
        </div>
      )}
      {onMap && (
        <Suspense>
          <WaveRounds world={world} wave={number} close={() => setOnMap(false)} />
        </Suspense>
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
