import Button from '@mui/material/Button'
import { useQuery } from '@tanstack/react-query'
import { useSearchParams } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { useAnswered } from '../parts/Answered'
import { Board } from '../parts/Board'
import { Tick } from '../parts/controls'
import { TabRow } from '../parts/TabRow'
import { mayDo, useWorld } from '../parts/WorldPicker'
import { BinsToCount } from './BinsToCount'
import { CountInside } from './CountInside'

type Sheet = Shape['SheetShown']

/** What is counted on a floor: sheets and how far each is, with its lines and differences; and bins, with when they were counted. */
export default function CountsBoard({ me }: { me: Shape['Me'] }) {
  const chosen = useWorld('live')
  const [query, setQuery] = useSearchParams()
  const world = chosen.world?.id ?? ''
  const finished = query.get('all') === '1'
  const view = useQuery({
    queryKey: ['world', world, 'counts', finished],
    enabled: !!world,
    queryFn: () => got(client.GET('/api/worlds/{id}/counts', { params: { path: { id: world }, query: { finished } } })),
  })
  const set = (name: string, value: string) => {
    const next = new URLSearchParams(query)
    if (value) next.set(name, value)
    else next.delete(name)
    setQuery(next, { replace: true })
  }
  const answered = useAnswered(world)
  const may = (kind: string) => mayDo(me, chosen.world, kind)
  const sheets = view.data?.sheets ?? []
  const one = sheets.find((s) => s.count === query.get('sheet')) ?? sheets[0]
  const part = query.get('part') === 'bins' ? 'bins' : 'sheets'
  return (
    <Board
      title="Counts"
      lead={
        <>
          Bins that are counted, how far each sheet is, and what differs from the books. Nothing changes in them until a
          line is posted.
        </>
      }
      chosen={chosen}
      view={view}
      says={answered.shown}
      beside="Chosen sheet"
      inside={
        part === 'sheets' &&
        one &&
        world && <CountInside key={one.count} world={world} count={one.count} act={answered.act} may={may} me={me} />
      }
    >
      {view.data && (
        <>
          <TabRow
            label="Of counting"
            tabs={[
              ['sheets', `Sheets ${sheets.length || ''}`.trim(), 0],
              ['bins', 'Bins', 0],
            ]}
            value={part}
            choose={(p) => set('part', p === 'bins' ? 'bins' : '')}
          />
          {part === 'bins' ? (
            <BinsToCount world={world} act={may('make_counts') ? answered.act : undefined} plans={view.data.plans} />
          ) : (
            <>
              <Due plans={view.data.plans} run={may('run_count_plan') ? answered.act : undefined} />
              {sheets.length === 0 ? (
                <p className="empty">
                  Nothing is to be counted. Choose bins on the other tab, or let a plan make its sheets.
                </p>
              ) : (
                <table className="plain rows" aria-label="Sheets">
                  <thead>
                    <tr>
                      <th>Sheet</th>
                      <th>Where</th>
                      <th>How far</th>
                    </tr>
                  </thead>
                  <tbody>
                    {sheets.map((s) => (
                      <tr key={s.count} aria-current={s === one ? 'true' : undefined}>
                        <td>
                          <button className="link code" onClick={() => set('sheet', s.count)}>
                            {s.count}
                          </button>
                        </td>
                        <td>
                          {s.zones.join(', ')}{' '}
                          <span className="quiet">
                            <Told text={s.why} />
                          </span>
                          <div className="quiet mono">
                            {s.first}
                            {s.last !== s.first && ` to ${s.last}`}
                          </div>
                        </td>
                        <td>
                          <Shares of={s} />
                        </td>
                      </tr>
                    ))}
                  </tbody>
                </table>
              )}
              {(view.data.finished > 0 || finished) && (
                <label>
                  <Tick checked={finished} onChange={(e) => set('all', e.target.checked ? '1' : '')} />
                  also what is done: {view.data.finished}
                </label>
              )}
            </>
          )}
        </>
      )}
    </Board>
  )
}

/** How many bins are due by each plan, with the button that makes its sheets. */
function Due({ plans, run }: { plans: Shape['CountsBoard']['plans']; run?: (a: Shape['CommandBody']['act']) => void }) {
  if (plans.length === 0)
    return <p className="quiet">No count plan is in force: plans are in the chapter Stock care.</p>
  return (
    <ul className="due" aria-label="Due by plan">
      {plans.map((p) => (
        <li key={p.plan}>
          <b>{p.name}</b>{' '}
          <span className="quiet">
            {p.due === 0 ? 'nothing due' : `${p.due.toLocaleString('en')} ${p.due === 1 ? 'bin' : 'bins'} due`}
          </span>{' '}
          {run && p.due > 0 && (
            <Button size="small" onClick={() => run({ kind: 'run_count_plan', plan: p.plan })}>
              Make its sheets
            </Button>
          )}
        </li>
      ))}
    </ul>
  )
}

/** One bar in three shares: in the books, counted, not yet. */
export function Shares({ of: s }: { of: Sheet }) {
  const all = s.posted + s.waiting + s.left || 1
  const words = [
    s.posted && `${s.posted} in the books`,
    s.waiting && `${s.waiting} counted`,
    s.left && `${s.left} not yet${s.again ? `, ${s.again} of them again` : ''}`,
  ].filter(Boolean)
  const off = s.differences === 1 ? '1 difference' : `${s.differences} differences`
  return (
    <div className="howfar">
      <div className="share-bar" role="img" aria-label={words.join(', ')}>
        <i className="posted" style={{ width: `${(100 * s.posted) / all}%` }} />
        <i className="counted" style={{ width: `${(100 * s.waiting) / all}%` }} />
      </div>
      <small>
        {s.state === 'dropped' ? 'dropped; ' : ''}
        {words.join(', ')}
      </small>
      {s.differences > 0 && (
        <div className="quiet">
          {off}, worth {s.value}
        </div>
      )}
    </div>
  )
}
