import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { FloorAsked, NoAnswer } from '../parts/bench'
import { DRAFT, useDraft } from '../parts/data'

type Ahead = Shape['PlanAhead']

/** What each count plan of the draft would have counted on the days to come, how long that takes, and whether every bin is counted in time. */
export default function CountBench() {
  const draft = useDraft()
  const [world, setWorld] = useState('')
  const answer = useQuery({
    queryKey: ['bench', 'counts', world, draft.data?.rulebook],
    enabled: !!draft.data,
    placeholderData: (before) => before,
    retry: false,
    queryFn: () =>
      got(
        client.POST('/api/drafts/{id}/bench/counts', {
          params: { path: { id: DRAFT } },
          body: { world: world || null },
        }),
      ),
  })
  return (
    <aside className="bench" aria-label="Bench">
      <h2>
        Bench <small className="quiet">what is counted when</small>
      </h2>
      <div className="ask">
        <FloorAsked id="count-floor" value={world} set={setWorld} />
      </div>
      <NoAnswer error={answer.error} />
      {answer.data?.plans.length === 0 && <p className="empty">No plan is switched on.</p>}
      {answer.data?.plans.map((p) => (
        <Plan key={p.plan} of={p} />
      ))}
      {answer.data && (
        <p className="quiet">
          Reckoned with {answer.data.seconds_a_bin} s a bin and {answer.data.seconds_a_line} s a line, as if every sheet
          were counted the day it is made. Nothing is made.
        </p>
      )}
    </aside>
  )
}

function Plan({ of: p }: { of: Ahead }) {
  const most = Math.max(1, ...p.days.map((d) => d.minutes))
  return (
    <section aria-label={p.name}>
      <h3 style={{ marginBottom: 2 }}>
        {p.number}. {p.name}{' '}
        <small className="quiet">{p.bins === 1 ? '1 bin' : `${p.bins.toLocaleString('en')} bins`}</small>
      </h3>
      <p className={p.late ? 'mark doubt' : 'quiet'} style={{ whiteSpace: 'normal', margin: '0 0 6px' }}>
        {p.late && '▲ '}
        <Told text={p.says} />
        {p.first.length > 0 && (
          <>
            {' '}
            First: <span className="mono">{p.first.join(', ')}</span>.
          </>
        )}
      </p>
      {p.days.length > 0 && (
        <ol className="calendar" aria-label={`Days of ${p.name}`}>
          {p.days.map((d) => {
            const day = new Date(`${d.day}T12:00:00Z`)
            const says = `${day.toLocaleDateString('en-GB', { weekday: 'long', day: 'numeric', month: 'long', timeZone: 'UTC' })}: ${d.bins} bins, ${d.lines} lines, ${d.minutes} min`
            return (
              <li key={d.day} title={says}>
                <i style={{ height: `${Math.round((26 * d.minutes) / most)}px` }} />
                <b>{day.getUTCDate()}</b>
                <small>{d.bins ? `${d.minutes} min` : '–'}</small>
                <span className="sr">{says}</span>
              </li>
            )
          })}
        </ol>
      )}
    </section>
  )
}
