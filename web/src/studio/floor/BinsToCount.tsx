import Button from '@mui/material/Button'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { client, got, type Shape } from '../../shared/client'
import { Link } from 'react-router'
import { Entry, Pick, Tick } from '../parts/controls'
import { Skeleton } from '../parts/Skeleton'
import type { Act } from './lists'

/** Bins with the days since they were counted and the movements since; those that are chosen come onto sheets. */
export function BinsToCount(props: { world: string; act?: (a: Act) => void; plans: Shape['CountsBoard']['plans'] }) {
  const { world, act, plans } = props
  const [zone, setZone] = useState('')
  const [words, setWords] = useState('')
  const [chosen, setChosen] = useState<string[]>([])
  const view = useQuery({
    queryKey: ['world', world, 'bins-to-count', zone, words],
    placeholderData: keepPreviousData,
    queryFn: () =>
      got(client.GET('/api/worlds/{id}/bins-to-count', { params: { path: { id: world }, query: { zone, words } } })),
  })
  if (view.error) return <p className="empty">{view.error.message}</p>
  if (!view.data) return <Skeleton />
  const bins = view.data.bins
  const free = bins.filter((b) => !b.sheet)
  const marked = chosen.filter((c) => free.some((b) => b.bin === c))
  const names = new Map(plans.map((p) => [p.plan, p.name]))
  return (
    <>
      <div className="form">
        <Pick aria-label="Zone" value={zone} onChange={(e) => setZone(e.target.value)}>
          <option value="">all zones</option>
          {Object.entries(view.data.zones).map(([code, name]) => (
            <option key={code} value={code}>
              {name}
            </option>
          ))}
        </Pick>
        <Entry
          aria-label="Bins that read like"
          placeholder="bin or what is in it"
          value={words}
          maxLength={60}
          onChange={(e) => setWords(e.target.value)}
        />
        {act && (
          <>
            <Button
              variant="contained"
              disabled={marked.length === 0}
              onClick={() => (act({ kind: 'make_counts', bins: marked }), setChosen([]))}
            >
              {marked.length
                ? `Have ${marked.length === 1 ? 'it' : `these ${marked.length}`} counted`
                : 'Have them counted'}
            </Button>
            <Button onClick={() => setChosen(marked.length === free.length ? [] : free.map((b) => b.bin))}>
              {marked.length === free.length ? 'Choose none' : `Choose all ${free.length}`}
            </Button>
          </>
        )}
      </div>
      <p>
        <Link to={`/stock?world=${world}&map=counted`}>When each bin was counted last, on the map</Link>
      </p>
      {bins.length === 0 && <p className="empty">No bin reads like that.</p>}
      <table className="plain rows" aria-label="Bins">
        <thead>
          <tr>
            <th>
              <span className="sr">Choose</span>
            </th>
            <th>Bin</th>
            <th>Holds</th>
            <th>Counted</th>
            <th style={{ textAlign: 'right' }}>Movements since</th>
            <th>Plan</th>
            <th>Sheet</th>
          </tr>
        </thead>
        <tbody>
          {bins.map((b) => (
            <tr key={b.bin}>
              <td>
                {act && !b.sheet && (
                  <Tick
                    aria-label={`Bin ${b.bin}`}
                    checked={chosen.includes(b.bin)}
                    onChange={(e) =>
                      setChosen(e.target.checked ? [...chosen, b.bin] : chosen.filter((c) => c !== b.bin))
                    }
                  />
                )}
              </td>
              <td>
                <span className="code">{b.bin}</span> <span className="quiet">{b.zone}</span>
              </td>
              <td>{b.holds}</td>
              <td>
                {b.days === null ? 'never' : b.days === 0 ? 'today' : b.days === 1 ? 'yesterday' : `${b.days} days ago`}
                {b.due && <span className="mark doubt"> ▲ due</span>}
              </td>
              <td className="num">{b.movements}</td>
              <td>{b.plan ? (names.get(b.plan) ?? b.plan) : <span className="quiet">none</span>}</td>
              <td>{b.sheet && <span className="code">{b.sheet}</span>}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {bins.length >= 400 && <p className="quiet">These are the first 400: narrow the list by zone or words.</p>}
    </>
  )
}
