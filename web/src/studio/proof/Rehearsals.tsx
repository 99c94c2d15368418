import Button from '@mui/material/Button'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useContext, useRef, useState } from 'react'
import { Link, useNavigate, useSearchParams } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { when } from '../../shared/when'
import { Skeleton } from '../parts/Skeleton'
import { DRAFT, Say, useRehearsals, useWorlds } from '../parts/data'
import { Entry } from '../parts/controls'
import { TabRow } from '../parts/TabRow'
import { Coverage } from './Coverage'

const VERDICTS = {
  passed: ['holds', '✓ passed'],
  failed: ['fails', '✕ failed'],
  nothing_expected: ['info', '○ ran, nothing expected'],
} as const

/** What came of a run, as long as it speaks for today. */
export function Mark({ ran }: { ran: Shape['Ran'] | null }) {
  if (!ran) return <span className="mark info">○ not run yet</span>
  const [mark, word] = VERDICTS[ran.verdict]
  if (!ran.current)
    return (
      <>
        <span className="mark doubt">▲ run again</span>
        <div className="quiet">
          {word.slice(2)}, but {ran.stale}
        </div>
      </>
    )
  return <span className={`mark ${mark}`}>{word}</span>
}

/** What a rehearsal names that the ground no longer has, or has otherwise. */
export function Ground({ head }: { head: Shape['RehearsalHead'] }) {
  if (!head.missing.length && !head.changed.length) return null
  return (
    <div className="quiet">
      <span className="mark doubt">▲ the ground has changed: </span>
      <Told
        text={[
          head.missing.length ? `no ${head.missing.join(', ')} any more` : '',
          head.changed.length ? `${head.changed.join(', ')} otherwise` : '',
        ]
          .filter(Boolean)
          .join('; ')}
      />
    </div>
  )
}

export default function Rehearsals({ me }: { me: Shape['Me'] }) {
  const rehearsals = useRehearsals()
  const queries = useQueryClient()
  const go = useNavigate()
  const say = useContext(Say)
  const [busy, setBusy] = useState('')
  const file = useRef<HTMLInputElement>(null)
  const [query, setQuery] = useSearchParams()
  const tab = query.get('view') === 'tried' ? 'tried' : 'list'
  const may = me.rights.includes('rehearse')
  const runAll = useMutation({
    mutationFn: async (which: Shape['RehearsalHead'][]) => {
      const stuck: string[] = [] // one that cannot be run keeps none of the others from it
      for (const [n, r] of which.entries()) {
        setBusy(`${n + 1} of ${which.length}`)
        await got(
          client.POST('/api/rehearsals/{id}/run', {
            params: { path: { id: r.id } },
            body: { rulebook: DRAFT, draft: DRAFT },
          }),
        ).catch((e: Error) => stuck.push(`${r.name}: ${e.message}`))
      }
      if (stuck.length) throw new Error(stuck.join(' '))
    },
    onError: (e) => say(e.message),
    onSettled: () => {
      setBusy('')
      void queries.invalidateQueries({ queryKey: ['rehearsals'] })
    },
  })
  const begin = useMutation({
    mutationFn: () => got(client.POST('/api/worlds', { body: { name: 'A new run', draft: DRAFT, book_seconds: 2 } })),
    onSuccess: (w) => void go(`/desk/${w.id}`),
    onError: (e) => say(e.message),
  })
  const bringIn = useMutation({
    mutationFn: async (brought: File) => got(client.POST('/api/rehearsals', { body: { text: await brought.text() } })),
    onSuccess: (r) => void go(`/rehearsals/${r.head.id}`),
    onError: (e) => say(e.message),
  })
  return (
    <div className="page wide">
      <main className="main">
        <h1>Rehearsals</h1>
        <p className="lead">
          Scripts of office acts and scans with expectations. Each runs in a world of its own, on the draft as it
          stands.
        </p>
        <div className="form">
          {may && (
            <>
              <Button variant="contained" onClick={() => begin.mutate()}>
                Begin a new one on a desk
              </Button>
              <Button
                disabled={busy !== '' || !rehearsals.data?.rehearsals.length}
                onClick={() => runAll.mutate(rehearsals.data?.rehearsals ?? [])}
              >
                {busy ? `Running ${busy}` : 'Run all'}
              </Button>
              <Button onClick={() => file.current?.click()}>Bring in a file</Button>
              <input
                type="file"
                hidden
                ref={file}
                aria-label="A rehearsal file"
                accept=".yaml,.yml,.json"
                onChange={(e) => {
                  const brought = e.target.files?.[0]
                  if (brought) bringIn.mutate(brought)
                  e.target.value = ''
                }}
              />
            </>
          )}
        </div>
        <TabRow
          label="Rehearsals"
          tabs={[
            ['list', 'The scripts'],
            ['tried', 'What they have tried'],
          ]}
          value={tab}
          choose={(to) => setQuery(to === 'tried' ? { view: 'tried' } : {})}
        />
        {!rehearsals.data ? (
          <Skeleton />
        ) : tab === 'tried' ? (
          <Coverage results={rehearsals.data.rehearsals.map((r) => r.last?.id ?? 0).join()} />
        ) : (
          <table className="plain">
            <thead>
              <tr>
                <th>Rehearsal</th>
                <th>On this draft</th>
                <th>On what is in force</th>
                <th style={{ textAlign: 'right' }}>Steps</th>
                <th style={{ textAlign: 'right' }}>Expectations</th>
                <th>Last run on this draft</th>
              </tr>
            </thead>
            <tbody>
              {rehearsals.data.rehearsals.map((r) => (
                <tr key={r.id}>
                  <td>
                    <Link className="link" to={`/rehearsals/${r.id}`}>
                      {r.name}
                    </Link>
                    <div className="quiet">{r.about}</div>
                    <Ground head={r} />
                  </td>
                  <td>
                    <Mark ran={r.last} />
                  </td>
                  <td>
                    <Mark ran={r.in_force} />
                  </td>
                  <td className="num">{r.steps}</td>
                  <td className="num">{r.pins}</td>
                  <td className="quiet">{r.last && <Told text={`${when(r.last.at)}, @${r.last.by}`} />}</td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        {tab === 'list' && rehearsals.data?.rehearsals.length === 0 && (
          <p className="empty">
            Nothing is rehearsed yet. Begin one on a desk, do the work on its handset, pin what you expect, and keep it.
          </p>
        )}
        {tab === 'list' && <Runs may={may} />}
      </main>
    </div>
  )
}

const FEW = 8

/** Runs that lie on desks: opened, named, cleared away. */
function Runs({ may }: { may: boolean }) {
  const worlds = useWorlds()
  const queries = useQueryClient()
  const say = useContext(Say)
  const [all, setAll] = useState(false)
  const [naming, setNaming] = useState('')
  const found = worlds.data?.worlds.filter((w) => w.kind === 'rehearsal' && w.name !== 'Handset bench') ?? []
  const done = {
    onSuccess: () => (setNaming(''), void queries.invalidateQueries({ queryKey: ['worlds'] })),
    onError: (e: Error) => say(e.message),
  }
  const name = useMutation({
    mutationFn: (to: { id: string; name: string }) =>
      got(client.PUT('/api/worlds/{id}', { params: { path: { id: to.id } }, body: { name: to.name } })),
    ...done,
  })
  const clear = useMutation({
    mutationFn: (id: string) => got(client.DELETE('/api/worlds/{id}', { params: { path: { id } } })),
    ...done,
  })
  if (!found.length) return null
  return (
    <>
      <h2 style={{ fontSize: 17, marginTop: 28 }}>On desks</h2>
      <table className="plain">
        <thead>
          <tr>
            <th>Run</th>
            <th style={{ textAlign: 'right' }}>Entries</th>
            <th>Begun</th>
            {may && <th>Acts</th>}
          </tr>
        </thead>
        <tbody>
          {found.slice(0, all ? undefined : FEW).map((w) => (
            <tr key={w.id}>
              <td>
                {naming === w.id ? (
                  <form
                    onSubmit={(e) => {
                      e.preventDefault()
                      name.mutate({ id: w.id, name: String(new FormData(e.currentTarget).get('name')) })
                    }}
                  >
                    <Entry
                      name="name"
                      aria-label="What the run is called"
                      defaultValue={w.name}
                      autoFocus
                      maxLength={80}
                      onKeyDown={(e) => e.key === 'Escape' && setNaming('')}
                    />{' '}
                    <button className="link">Keep it</button>
                  </form>
                ) : (
                  <Link className="link" to={`/desk/${w.id}`}>
                    {w.name}
                  </Link>
                )}
              </td>
              <td className="num">{w.seq}</td>
              <td className="quiet">
                <Told text={`${when(w.made_at)}, @${w.made_by}`} />
              </td>
              {may && (
                <td>
                  <button className="link quiet" onClick={() => setNaming(w.id)}>
                    Rename
                  </button>{' '}
                  ·{' '}
                  <button className="link quiet" onClick={() => clear.mutate(w.id)}>
                    Clear away
                  </button>
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
      {found.length > FEW && (
        <button className="link quiet" onClick={() => setAll(!all)}>
          {all ? 'Show the latest only' : `Show all ${found.length}`}
        </button>
      )}
    </>
  )
}
