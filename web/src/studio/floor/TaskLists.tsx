import Button from '@mui/material/Button'
import { useMutation } from '@tanstack/react-query'
import { useContext, useState } from 'react'
import { Link } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { ActHead, Entry, Pick, Tick } from '../parts/controls'
import { Say } from '../parts/data'
import { Sheet } from '../parts/Sheet'
import { TasksShown } from '../parts/TasksShown'
import { TaskActs } from '../proof/TaskActs'
import { PickForm, PutAwayForm } from './InOffice'
import { age, type Shown } from './lists'

/** What no task takes yet: looked at together, then made or not made. */
export function WaitsList({ view, world, act }: Shown) {
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
            {act && (
              <th>
                <span className="sr">Ticked</span>
              </th>
            )}
            <th>What</th>
            <th>In bin</th>
            <th>Since</th>
            <th>Why</th>
            {act && <ActHead />}
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
export function TaskList({ view, world, act, tell }: Shown) {
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
            {act && <ActHead />}
          </tr>
        </thead>
        <tbody>
          {rows.map((t) => {
            const may = view.offered.find((o) => o.task === t.number)
            return (
              <tr key={t.number}>
                <td>
                  <Link className="link mono" to={`/documents?world=${world}&doc=${t.number}`}>
                    {t.number}
                  </Link>
                </td>
                <td>{t.station}</td>
                <td>{t.crew_name || (t.person && <Told text={`@${t.person}`} />)}</td>
                <td>
                  <Told text={t.says} />
                </td>
                <td className="mono">{t.from_bin}</td>
                <td className="mono">{t.to ?? '?'}</td>
                <td style={{ whiteSpace: 'nowrap' }}>{age(view, t.seq)}</td>
                {act && (
                  <td style={{ whiteSpace: 'nowrap' }}>
                    {may && <TaskActs task={t} offered={may} act={act} />}
                    {t.need === 'pick' && (
                      <a
                        className="link"
                        style={{ marginLeft: 10 }}
                        href={`/api/worlds/${world}/tasks/${t.number}/list.pdf`}
                        target="_blank"
                        rel="noreferrer"
                        aria-label={`Pick list ${t.number}`}
                      >
                        Pick list
                      </a>
                    )}
                    {tell && t.need === 'pick' && t.state !== 'held' && (
                      <button
                        className="link"
                        style={{ marginLeft: 10 }}
                        onClick={() => setDone(t)}
                        aria-label={`Picked ${t.number}`}
                      >
                        It was picked
                      </button>
                    )}
                    {tell && t.state === 'open' && (t.need === 'put_away' || t.need === 'replenish') && (
                      <button
                        className="link"
                        style={{ marginLeft: 10 }}
                        onClick={() => setDone(t)}
                        aria-label={`${t.need === 'replenish' ? 'Brought' : 'Put away'} ${t.number}`}
                      >
                        {t.need === 'replenish' ? 'It was brought' : 'It was put away'}
                      </button>
                    )}
                  </td>
                )}
              </tr>
            )
          })}
        </tbody>
      </table>
      {done?.need === 'pick' && tell && <PickForm task={done} tell={tell} close={() => setDone(null)} />}
      {(done?.need === 'put_away' || done?.need === 'replenish') && tell && (
        <PutAwayForm task={done} scanned={view.scanned[done.need] ?? []} tell={tell} close={() => setDone(null)} />
      )}
      {rows.length === 0 && <p className="empty">No task is so. Choose otherwise.</p>}
    </>
  )
}
