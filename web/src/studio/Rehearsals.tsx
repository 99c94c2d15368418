import Button from '@mui/material/Button'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useContext, useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { client, got, type Shape } from '../shared/client'
import { Told } from '../shared/Told'
import { when } from '../shared/when'
import { Skeleton } from './BinRules'
import { DRAFT, Say, useRehearsals, useWorlds } from './data'

export function Mark({ last }: { last: Shape['LastRun'] | null }) {
  if (!last) return <span className="mark info">○ not run yet</span>
  if (!last.current) return <span className="mark doubt">▲ {last.passed ? 'passed' : 'failed'} on other rules: run again</span>
  return last.passed ? <span className="mark holds">✓ passed</span> : <span className="mark fails">✕ failed</span>
}

export default function Rehearsals({ me }: { me: Shape['Me'] }) {
  const rehearsals = useRehearsals()
  const worlds = useWorlds()
  const queries = useQueryClient()
  const go = useNavigate()
  const say = useContext(Say)
  const [busy, setBusy] = useState('')
  const may = me.rights.includes('rehearse')
  const runs = worlds.data?.worlds.filter((w) => w.kind === 'rehearsal' && w.name !== 'Handset bench').slice(0, 8) ?? []
  const runAll = useMutation({
    mutationFn: async (which: Shape['RehearsalHead'][]) => {
      const stuck: string[] = [] // one that cannot be run keeps none of the others from it
      for (const [n, r] of which.entries()) {
        setBusy(`${n + 1} of ${which.length}`)
        await got(client.POST('/api/rehearsals/{id}/run', { params: { path: { id: r.id } }, body: { rulebook: DRAFT } })).catch((e: Error) => stuck.push(`${r.name}: ${e.message}`))
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
    mutationFn: async (file: File) => got(client.POST('/api/rehearsals', { body: { text: await file.text() } })),
    onSuccess: (r) => void go(`/rehearsals/${r.head.id}`),
    onError: (e) => say(e.message),
  })
  return (
    <div className="page wide">
      <main className="main">
        <h1>Rehearsals</h1>
        <p className="lead">Scripts of office acts and scans with expectations. Each runs in a world of its own, on the draft as it stands.</p>
        <div className="form">
          {may && (
            <>
              <Button variant="contained" onClick={() => begin.mutate()}>
                Begin a new one on a desk
              </Button>
              <Button disabled={busy !== '' || !rehearsals.data?.rehearsals.length} onClick={() => runAll.mutate(rehearsals.data?.rehearsals ?? [])}>
                {busy ? `Running ${busy}` : 'Run all'}
              </Button>
              <Button component="label">
                Bring in a file
                <input
                  type="file"
                  hidden
                  accept=".yaml,.yml,.json"
                  onChange={(e) => {
                    const file = e.target.files?.[0]
                    if (file) bringIn.mutate(file)
                    e.target.value = ''
                  }}
                />
              </Button>
            </>
          )}
        </div>
        {!rehearsals.data ? (
          <Skeleton />
        ) : (
          <table className="plain">
            <thead>
              <tr>
                <th>Rehearsal</th>
                <th>Result on this draft</th>
                <th style={{ textAlign: 'right' }}>Steps</th>
                <th style={{ textAlign: 'right' }}>Expectations</th>
                <th>Last run</th>
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
                  </td>
                  <td>
                    <Mark last={r.last} />
                  </td>
                  <td className="num">{r.steps}</td>
                  <td className="num">{r.pins}</td>
                  <td className="quiet">{r.last && <Told text={`${when(r.last.at)}, @${r.last.by}`} />}</td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        {rehearsals.data?.rehearsals.length === 0 && <p className="empty">Nothing is rehearsed yet. Begin one on a desk, do the work on its handset, pin what you expect, and keep it.</p>}
        {runs.length > 0 && (
          <>
            <h2 style={{ fontSize: 17, marginTop: 28 }}>On desks</h2>
            <table className="plain">
              <tbody>
                {runs.map((w) => (
                  <tr key={w.id}>
                    <td>
                      <Link className="link" to={`/desk/${w.id}`}>
                        {w.name}
                      </Link>
                    </td>
                    <td className="num">{w.seq} entries</td>
                    <td className="quiet">
                      <Told text={`${when(w.made_at)}, @${w.made_by}`} />
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </>
        )}
      </main>
    </div>
  )
}
