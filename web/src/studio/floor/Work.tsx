import Button from '@mui/material/Button'
import { useMutation, useQuery } from '@tanstack/react-query'
import { useContext, useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { Entry, Pick, Tick } from '../parts/controls'
import { Say } from '../parts/data'
import { Sheet } from '../parts/Sheet'
import { Skeleton } from '../parts/Skeleton'
import { TabRow } from '../parts/TabRow'
import { TasksShown } from '../parts/TasksShown'
import { mayDo, useOffice, useWorld, WorldPicker } from '../parts/WorldPicker'
import { InspectForm } from './InspectForm'
import { PutAwayForm, ReceiveForm, type Tell } from './InOffice'
import { TaskActs } from '../proof/TaskActs'

type View = Shape['WorkView']
type Act = Shape['CommandBody']['act']

/** How long ago, in the largest unit that says something. */
function age(view: View, seq: number) {
  const at = view.times[String(seq)]
  if (!at) return ''
  const minutes = Math.max(0, Math.round((Date.parse(view.clock) - Date.parse(at)) / 60_000))
  if (minutes < 60) return `${minutes} min`
  if (minutes < 48 * 60) return `${Math.round(minutes / 60)} h`
  return `${Math.round(minutes / (24 * 60))} days`
}

const LISTS = [
  ['to_receive', 'To receive'],
  ['to_inspect', 'To inspect'],
  ['waits', 'Waits for a task'],
  ['tasks', 'Tasks'],
  ['unfinished', 'Never finished'],
  ['not_booked', 'Arrived, not booked'],
  ['expected', 'Announced'],
  ['transfers', 'Sent, not come'],
  ['done', 'Done lately'],
] as const
type List = (typeof LISTS)[number][0]
/** What is done from a list: who may not do that, looks at it. */
const ACT_OF: Record<List, string> = {
  to_receive: 'receive_in_office',
  to_inspect: 'inspect_in_office',
  waits: 'make_tasks',
  tasks: 'hold_task',
  unfinished: 'finish_plate',
  not_booked: 'book_receipt',
  expected: 'announce_order',
  transfers: 'ship_transfer',
  done: 'undo_task',
}

/** What is to be done on a floor: list by list, each row with its age, its cause and what the office can do about it. */
export default function Work({ me }: { me: Shape['Me'] }) {
  const chosen = useWorld('live')
  const [query, setQuery] = useSearchParams()
  const world = chosen.world?.id
  const view = useQuery({
    queryKey: ['world', world, 'work'],
    enabled: !!world,
    queryFn: () => got(client.GET('/api/worlds/{id}/work', { params: { path: { id: world ?? '' } } })),
  })
  const office = useOffice(world ?? '')
  const step = useOffice(world ?? '', true)
  const counts = (list: List) => view.data?.lists[list].length ?? 0
  const asked = LISTS.find(([id]) => id === query.get('list'))?.[0]
  const shown = asked ?? LISTS.find(([id]) => id !== 'to_receive' && counts(id) > 0)?.[0] ?? 'to_receive'
  const show = (list: string) => {
    const next = new URLSearchParams(query)
    next.set('list', list)
    setQuery(next)
  }
  return (
    <div className="page wide">
      <main className="main">
        <div className="form" style={{ float: 'right', marginTop: 0 }}>
          {chosen.worlds.length > 0 && <WorldPicker {...chosen} />}
        </div>
        <h1>Work</h1>
        <p className="lead">What is to be done on this floor, since when, and what keeps it.</p>
        {chosen.worlds.length === 0 && (
          <p className="empty">
            Nothing runs yet. Begin a live floor on <Link to="/site">Site</Link>, or a run on{' '}
            <Link to="/rehearsals">Rehearsals</Link>.
          </p>
        )}
        {view.error && <p className="empty">{view.error.message}</p>}
        {!view.data ? (
          world && !view.error && <Skeleton />
        ) : (
          <>
            <TabRow
              label="Lists of work"
              tabs={LISTS.map(([id, title]) => [id, `${title} ${counts(id) || ''}`.trim(), 0])}
              value={shown}
              choose={show}
            />
            <Rows
              list={shown}
              view={view.data}
              world={world ?? ''}
              closes={mayDo(me, chosen.world, 'close_rest')}
              act={mayDo(me, chosen.world, ACT_OF[shown]) ? (a) => office.mutate(a) : undefined}
              tell={
                mayDo(me, chosen.world, 'put_away_in_office')
                  ? (a) =>
                      step.mutateAsync(a).then(
                        (answer) => (answer.entry.done ? '' : answer.entry.says),
                        (error: Error) => error.message,
                      )
                  : undefined
              }
            />
          </>
        )}
      </main>
    </div>
  )
}

/** ``tell`` does a step of the floor in the office, and says why not; undefined for who may not. */
type Shown = { view: View; world: string; act?: (act: Act) => void; tell?: Tell; closes?: boolean }

function Rows({ list, ...shown }: Shown & { list: List }) {
  if (list === 'to_receive') return <ToReceive {...shown} />
  if (list === 'to_inspect') return <ToInspect {...shown} />
  if (list === 'waits') return <WaitsList {...shown} />
  if (list === 'tasks') return <TaskList {...shown} />
  if (list === 'unfinished') return <Unfinished {...shown} />
  if (list === 'not_booked') return <NotBooked {...shown} />
  if (list === 'expected') return <Expected {...shown} />
  if (list === 'transfers') return <Transfers {...shown} />
  return <DoneLately {...shown} />
}

/** Orders of which something may come now; the office receives what was not scanned. */
function ToReceive({ view, world, tell, closes = false }: Shown) {
  const [order, setOrder] = useState('')
  const rows = view.lists.to_receive
  if (rows.length === 0) return <p className="empty">No confirmed order has anything open that a step plan receives.</p>
  return (
    <>
      <table className="plain">
        <thead>
          <tr>
            <th>Order</th>
            <th>Kind</th>
            <th>From</th>
            <th>Promised</th>
            <th>Open lines</th>
            <th>Step plan</th>
            {tell && <th aria-label="Act" />}
          </tr>
        </thead>
        <tbody>
          {rows.map((o) => (
            <tr key={o.order}>
              <td className="mono">{o.order}</td>
              <td>{o.called}</td>
              <td>{o.partner}</td>
              <td>{o.promised}</td>
              <td>{o.lines}</td>
              <td>{o.plan}</td>
              {tell && (
                <td>
                  <Button onClick={() => setOrder(o.order)} aria-label={`Receive ${o.order}`}>
                    Receive
                  </Button>
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
      {order && tell && (
        <ReceiveForm
          world={world}
          order={order}
          scanned={view.scanned.receive ?? []}
          closes={closes}
          tell={tell}
          close={() => setOrder('')}
        />
      )}
    </>
  )
}

/** Steps that were finished and may be undone, with what stands in the way of those that may not now. */
function DoneLately({ view, act }: Shown) {
  const [picked, setPicked] = useState('')
  const [why, setWhy] = useState('')
  const rows = view.lists.done
  if (rows.length === 0)
    return (
      <p className="empty">
        Nothing was finished that may be undone. Whether a step may be, its plan on <Link to="/steps">Steps</Link> says.
      </p>
    )
  const row = rows.find((r) => r.number === picked && !r.why_not)
  return (
    <>
      <table className="plain">
        <thead>
          <tr>
            <th>Step</th>
            <th>What</th>
            <th>By</th>
            <th>Finished</th>
            <th>Undoing it</th>
            {act && <th aria-label="Act" />}
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr key={`${r.kind} ${r.number}`}>
              <td className="mono">{r.number}</td>
              <td>
                <Told text={r.what} />
              </td>
              <td>{r.by && <Told text={`@${r.by}`} />}</td>
              <td>{age(view, r.seq)}</td>
              <td>{r.why_not ? <Told text={`Not now: ${r.why_not}`} /> : <Told text={`${r.does}.`} />}</td>
              {act && (
                <td>
                  {!r.why_not && (
                    <Button onClick={() => setPicked(r.number)} aria-label={`Undo ${r.number}`}>
                      Undo
                    </Button>
                  )}
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
      <Sheet open={!!row && !!act} onClose={() => setPicked('')} label={`Undo ${picked}`} fullWidth maxWidth="sm">
        {row && act && (
          <form
            style={{ padding: 20 }}
            onSubmit={(e) => {
              e.preventDefault()
              const said = why.trim()
              act(
                row.plate
                  ? { kind: 'undo_receipt', plate: row.plate, why: said }
                  : { kind: 'undo_task', task: row.number, why: said },
              )
              setPicked('')
              setWhy('')
            }}
          >
            <h2 style={{ marginTop: 0 }}>
              Undo <span className="code">{row.number}</span>
            </h2>
            <p>
              <Told text={`${row.what}. ${row.does}.`} />
              {row.asks_host &&
                ' The host has booked it: it is asked first, and until it answers nobody goes on with it.'}
            </p>
            <label className="field">
              <span>Why, for the log</span>
              <Entry value={why} maxLength={120} onChange={(e) => setWhy(e.target.value)} />
            </label>
            <div className="form">
              <Button type="submit" variant="contained">
                Undo it
              </Button>
              <Button onClick={() => setPicked('')}>Leave it</Button>
            </div>
          </form>
        )}
      </Sheet>
    </>
  )
}

/** Goods that stop at an inspection: where, and how much of them is looked at. */
function ToInspect({ view, tell }: Shown) {
  const [task, setTask] = useState('')
  const rows = view.lists.to_inspect
  if (rows.length === 0) return <p className="empty">Nothing waits to be inspected.</p>
  const [first, ...others] = rows.filter((r) => r.task === task)
  return (
    <>
      <table className="plain">
        <thead>
          <tr>
            <th>Task</th>
            <th>Plate</th>
            <th>Now in</th>
            <th>Item</th>
            <th>Lot</th>
            <th>Waits</th>
            <th>Looked at</th>
            {tell && <th aria-label="Act" />}
          </tr>
        </thead>
        <tbody>
          {rows.map((r, n) => (
            <tr key={`${r.task} ${r.item} ${r.lot} ${n}`}>
              <td className="mono">{r.task}</td>
              <td className="mono">{r.plate ?? 'loose'}</td>
              <td className="mono">{r.at}</td>
              <td>
                <span className="code">{r.item}</span> {r.name}
              </td>
              <td className="mono">{r.lot}</td>
              <td>
                {r.quantity.toLocaleString('en')} {r.unit}
              </td>
              <td>{r.looked_at < r.quantity ? `${r.looked_at.toLocaleString('en')} of them` : 'all'}</td>
              {tell && (
                <td>
                  {rows.findIndex((x) => x.task === r.task) === n && (
                    <Button onClick={() => setTask(r.task)} aria-label={`Inspect ${r.task}`}>
                      Say how they are
                    </Button>
                  )}
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
      {first && tell && (
        <InspectForm
          key={task}
          first={first}
          others={others}
          scanned={view.scanned.inspect ?? []}
          tell={tell}
          close={() => setTask('')}
        />
      )}
    </>
  )
}

/** What no task takes yet: looked at together, then made or not made. */
function WaitsList({ view, world, act }: Shown) {
  const say = useContext(Say)
  const rows = view.lists.waits
  const [ticked, setTicked] = useState<string[]>([])
  const [together, setTogether] = useState(false)
  const [dropping, setDropping] = useState('')
  const [why, setWhy] = useState('')
  const keys = ticked.filter((k) => rows.some((r) => r.key === k))
  const preview = useMutation({
    mutationFn: (apart: boolean) =>
      got(
        client.POST('/api/worlds/{id}/rests/preview', {
          params: { path: { id: world } },
          body: { keys, together: apart },
        }),
      ),
    onError: (e) => say(e.message),
  })
  const look = (apart: boolean) => {
    setTogether(apart)
    preview.mutate(apart)
  }
  if (rows.length === 0) return <p className="empty">Nothing waits: whatever is to go on has its task, or was done.</p>
  const toggle = (key: string) => setTicked(keys.includes(key) ? keys.filter((k) => k !== key) : [...keys, key])
  return (
    <>
      {act && (
        <div className="form">
          <Button variant="contained" disabled={!keys.length} onClick={() => look(together)}>
            {keys.length > 1 ? `Tasks of these ${keys.length}` : 'Tasks of this'}
          </Button>
          <button className="link" onClick={() => setTicked(keys.length === rows.length ? [] : rows.map((r) => r.key))}>
            {keys.length === rows.length ? 'Tick none' : 'Tick all'}
          </button>
          <span className="quiet">They are shown first, and made only if you say so.</span>
        </div>
      )}
      <table className="plain">
        <thead>
          <tr>
            {act && <th aria-label="Ticked" />}
            <th>What</th>
            <th>In bin</th>
            <th>Since</th>
            <th>Why</th>
            {act && <th aria-label="Act" />}
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr key={r.key}>
              {act && (
                <td>
                  <Tick aria-label={`Take ${r.key}`} checked={keys.includes(r.key)} onChange={() => toggle(r.key)} />
                </td>
              )}
              <td>
                <Told text={r.what} />
              </td>
              <td className="mono">{r.at ?? 'carried'}</td>
              <td>{age(view, r.seq)}</td>
              <td>
                {r.why ||
                  (r.part > 1 ? 'handed over, the next part begins on demand' : 'its plan waits until somebody asks')}
              </td>
              {act && (
                <td>
                  <button className="link" onClick={() => setDropping(r.key)} aria-label={`No task for ${r.key}`}>
                    No task
                  </button>
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
      <Sheet
        open={preview.data !== undefined}
        onClose={() => preview.reset()}
        label="Tasks before they are made"
        fullWidth
        maxWidth="sm"
      >
        <div style={{ padding: 20 }}>
          <h2 style={{ marginTop: 0 }}>Tasks before they are made</h2>
          <label className="tick">
            <Tick checked={together} onChange={(e) => look(e.target.checked)} /> gather all of one recipe into one task
          </label>
          {preview.data && <TasksShown preview={preview.data} />}
          <div className="form">
            <Button
              variant="contained"
              disabled={!preview.data?.tasks.length && !preview.data?.inspections.length}
              onClick={() => {
                act?.({ kind: 'make_tasks', keys, together, with_alike: false, take: false })
                setTicked([])
                preview.reset()
              }}
            >
              Make them
            </Button>
            <Button onClick={() => preview.reset()}>Not now</Button>
          </div>
        </div>
      </Sheet>
      <Sheet open={dropping !== ''} onClose={() => setDropping('')} label="No task" fullWidth maxWidth="sm">
        <div style={{ padding: 20 }}>
          <h2 style={{ marginTop: 0 }}>
            No task for <span className="code">{dropping}</span>
          </h2>
          <p>It stays where it is, and is on no list any more. The log keeps why.</p>
          <form
            className="form"
            onSubmit={(e) => {
              e.preventDefault()
              act?.({ kind: 'drop_rest', key: dropping, why: why.trim() })
              setDropping('')
              setWhy('')
            }}
          >
            <Entry
              aria-label="Why"
              placeholder="why"
              style={{ flex: 1 }}
              value={why}
              onChange={(e) => setWhy(e.target.value)}
            />
            <Button type="submit" disabled={why.trim().length < 3}>
              Take it off the list
            </Button>
          </form>
        </div>
      </Sheet>
    </>
  )
}

/** Tasks, as many as one asks for: by what they are for, how far they are, whose. */
function TaskList({ view, act, tell }: Shown) {
  const [done, setDone] = useState<Shape['ToDo'] | null>(null)
  const [by, setBy] = useState({ station: '', state: '', crew: '', person: '' })
  const all = view.lists.tasks
  const rows = all.filter(
    (t) =>
      (!by.station || t.station === by.station) &&
      (!by.state || t.state === by.state) &&
      (!by.crew || t.crew_name === by.crew) &&
      (!by.person || t.person === by.person),
  )
  if (all.length === 0) return <p className="empty">No task is open.</p>
  const choice = (of: keyof typeof by, words: string, values: (string | null)[]) => {
    const known = [...new Set(values.filter((v): v is string => !!v))].sort()
    if (known.length < 2 && !by[of]) return null
    return (
      <Pick key={of} aria-label={words} value={by[of]} onChange={(e) => setBy({ ...by, [of]: e.target.value })}>
        <option value="">{words}: all</option>
        {known.map((v) => (
          <option key={v} value={v}>
            {of === 'person' ? `@${v}` : v} (
            {all.filter((t) => [t.station, t.state, t.crew_name, t.person].includes(v)).length})
          </option>
        ))}
      </Pick>
    )
  }
  return (
    <>
      <div className="form">
        {choice(
          'station',
          'For',
          all.map((t) => t.station),
        )}
        {choice(
          'state',
          'State',
          all.map((t) => t.state),
        )}
        {choice(
          'crew',
          'Crew',
          all.map((t) => t.crew_name),
        )}
        {choice(
          'person',
          'Person',
          all.map((t) => t.person),
        )}
      </div>
      <table className="plain">
        <thead>
          <tr>
            <th>Task</th>
            <th>For</th>
            <th>Crew</th>
            <th>What</th>
            <th>From</th>
            <th>To</th>
            <th>Since</th>
            {act && <th aria-label="Act" />}
          </tr>
        </thead>
        <tbody>
          {rows.map((t) => {
            const may = view.offered.find((o) => o.task === t.number)
            return (
              <tr key={t.number}>
                <td className="mono">{t.number}</td>
                <td>{t.station}</td>
                <td>{t.crew_name || (t.person && <Told text={`@${t.person}`} />)}</td>
                <td>
                  <Told text={t.says} />
                </td>
                <td className="mono">{t.from_bin}</td>
                <td className="mono">{t.to ?? '?'}</td>
                <td>{age(view, t.seq)}</td>
                {act && (
                  <td>
                    {may && <TaskActs task={t} offered={may} act={act} />}
                    {tell && t.state === 'open' && t.need === 'put_away' && (
                      <button
                        className="link"
                        style={{ marginLeft: 10 }}
                        onClick={() => setDone(t)}
                        aria-label={`Put away ${t.number}`}
                      >
                        It was put away
                      </button>
                    )}
                  </td>
                )}
              </tr>
            )
          })}
        </tbody>
      </table>
      {done && tell && (
        <PutAwayForm task={done} scanned={view.scanned.put_away ?? []} tell={tell} close={() => setDone(null)} />
      )}
      {rows.length === 0 && <p className="empty">No task is so. Choose otherwise.</p>}
    </>
  )
}

function Unfinished({ view, act }: Shown) {
  const rows = view.lists.unfinished
  if (rows.length === 0) return <p className="empty">Every plate that was begun is finished.</p>
  return (
    <table className="plain">
      <thead>
        <tr>
          <th>Plate</th>
          <th>By</th>
          <th>On it</th>
          <th>In bin</th>
          <th>Begun</th>
          {act && <th aria-label="Act" />}
        </tr>
      </thead>
      <tbody>
        {rows.map((p) => (
          <tr key={p.number}>
            <td className="mono">{p.number}</td>
            <td>{p.by && <Told text={`@${p.by}`} />}</td>
            <td>{p.what}</td>
            <td className="mono">{p.at}</td>
            <td>{age(view, p.seq)}</td>
            {act && (
              <td>
                <Button onClick={() => act({ kind: 'finish_plate', plate: p.number, inspect: null, book: null })}>
                  Finish it
                </Button>
              </td>
            )}
          </tr>
        ))}
      </tbody>
    </table>
  )
}

function NotBooked({ view, act }: Shown) {
  const rows = view.lists.not_booked
  if (rows.length === 0) return <p className="empty">The host has booked everything that arrived.</p>
  return (
    <table className="plain">
      <thead>
        <tr>
          <th>Receipt</th>
          <th>Order</th>
          <th>What</th>
          <th>Arrived</th>
          <th>Why it is not booked</th>
          {act && <th aria-label="Act" />}
        </tr>
      </thead>
      <tbody>
        {rows.map((r) => (
          <tr key={r.receipt}>
            <td className="mono">{r.receipt}</td>
            <td className="mono">{r.order}</td>
            <td>{r.what}</td>
            <td>{age(view, r.seq)}</td>
            <td>
              <Told text={r.why} />
            </td>
            {act && (
              <td>
                {r.may_tell && (
                  <Button onClick={() => act({ kind: 'book_receipt', receipt: r.receipt })}>Book it now</Button>
                )}
              </td>
            )}
          </tr>
        ))}
      </tbody>
    </table>
  )
}

function Expected({ view }: Shown) {
  const rows = view.lists.expected
  if (rows.length === 0) return <p className="empty">No plate is announced that is not here.</p>
  return (
    <table className="plain">
      <thead>
        <tr>
          <th>Plate</th>
          <th>Notice</th>
          <th>Order</th>
          <th>From</th>
          <th>On it</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((p) => (
          <tr key={p.plate}>
            <td className="mono">{p.plate}</td>
            <td className="mono">{p.notice}</td>
            <td className="mono">{p.order}</td>
            <td>{p.partner}</td>
            <td>{p.what}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

function Transfers({ view }: Shown) {
  const rows = view.lists.transfers
  if (rows.length === 0) return <p className="empty">No other site has sent something that has not come.</p>
  return (
    <table className="plain">
      <thead>
        <tr>
          <th>Transfer</th>
          <th>From</th>
          <th>Still to come</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((t) => (
          <tr key={t.order}>
            <td className="mono">{t.order}</td>
            <td>{t.partner}</td>
            <td>{t.lines === 1 ? '1 line' : `${t.lines} lines`}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}
