import Button from '@mui/material/Button'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { client, got } from '../../shared/client'
import { Told } from '../../shared/Told'
import { ActHead, Entry } from '../parts/controls'
import { Sheet } from '../parts/Sheet'
import { Skeleton } from '../parts/Skeleton'
import { age, type Shown } from './lists'

/** Steps that were finished and may be undone, with what stands in the way of those that may not now. */
export function DoneLately({ world, act }: Shown) {
  const view = useQuery({
    queryKey: ['world', world, 'done'],
    queryFn: () => got(client.GET('/api/worlds/{id}/done', { params: { path: { id: world } } })),
  })
  const [picked, setPicked] = useState('')
  const [why, setWhy] = useState('')
  if (view.error) return <p className="empty">{view.error.message}</p>
  if (!view.data) return <Skeleton />
  const { data } = view
  const rows = data.done
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
            {act && <ActHead />}
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
              <td>{age(data, r.seq)}</td>
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
                  : row.kind === 'unloading'
                    ? { kind: 'undo_unloading', unloading: row.number, why: said }
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
