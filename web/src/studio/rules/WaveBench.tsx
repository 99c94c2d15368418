import { useQuery } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import { Fragment, lazy, Suspense, useState } from 'react'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { when } from '../../shared/when'
import { DRAFT, useDraft } from '../parts/data'
import { FloorAsked, NoAnswer } from '../parts/bench'
import { Pick } from '../parts/controls'

const WaveRounds = lazy(() => import('../parts/WaveRounds'))

type View = Shape['WaveBenchView']

/** Which plan of the draft takes which of the orders that may go, and the wave one of them would make: its tasks, and all ways to pick it side
 * by side. Nothing is released. */
export default function WaveBench({ plans }: { plans: { id: string; name: string }[] }) {
  const draft = useDraft()
  const [world, setWorld] = useState('')
  const [plan, setPlan] = useState('')
  const [onMap, setOnMap] = useState(false)
  const answer = useQuery({
    queryKey: ['bench', 'waves', world, plan, draft.data?.rulebook],
    enabled: !!draft.data,
    placeholderData: (before) => before,
    retry: false,
    queryFn: () =>
      got(
        client.POST('/api/drafts/{id}/bench/waves', {
          params: { path: { id: DRAFT } },
          body: { world: world || null, plan },
        }),
      ),
  })
  const a = answer.data
  const names = new Map(plans.map((p) => [p.id, p.name]))
  const shown = a?.plan ?? ''
  return (
    <aside className="bench" aria-label="Bench">
      <h2>
        Bench <small className="quiet">which orders go together</small>
      </h2>
      <div className="ask">
        <FloorAsked id="wave-floor" value={world} set={setWorld} />
        <label className="quiet" htmlFor="wave-plan">
          A wave of
        </label>
        <Pick id="wave-plan" value={plan || shown} onChange={(e) => setPlan(e.target.value)}>
          {plans.length === 0 && <option value="">no plan</option>}
          {plans.map((p) => (
            <option key={p.id} value={p.id}>
              {p.name}: {a?.counts[p.id] ?? 0}
            </option>
          ))}
        </Pick>
      </div>
      <NoAnswer error={answer.error} />
      {onMap && (
        <Suspense>
          <WaveRounds world={world} plan={shown} close={() => setOnMap(false)} />
        </Suspense>
      )}
      {a && !answer.error && (
        <>
          {a.takes.length > 0 ? <Made of={a} /> : <p className="empty">No order that may go is for this plan.</p>}
          {a.tasks.some((t) => t.metres !== null) && (
            <div className="form">
              <Button onClick={() => setOnMap(true)}>Its rounds on the map</Button>
            </div>
          )}
          {shown && <NextRuns of={a} />}
          <h3>Where each order belongs</h3>
          {a.orders.length === 0 && (
            <p className="empty">No order may go. Orders come by file, by form or from the host.</p>
          )}
          {a.in_no_plan && (
            <p className="quiet">
              <Told text={a.in_no_plan} /> They go at once.
            </p>
          )}
          <ul className="gated" aria-label="Orders and their plans">
            {a.orders.map((o) => (
              <li key={o.order}>
                <details>
                  <summary>
                    <span className="code">{o.order}</span> {o.partner}
                    <span className={o.plan ? 'mark' : 'mark quiet'}>
                      {o.plan ? names.get(o.plan) : 'at once'}
                      {o.released && ' ✓'}
                    </span>
                  </summary>
                  <p>
                    {o.lines === 1 ? '1 line' : `${o.lines} lines`}, {o.kilograms.toLocaleString('en')} kg
                    {o.released && ', released and waiting'}.
                  </p>
                  {o.passed.map((p) => (
                    <p key={p.plan} className="quiet">
                      – {p.plan}: <Told text={p.says} />
                    </p>
                  ))}
                </details>
              </li>
            ))}
          </ul>
          <p className="quiet">As if all that may go now were released. Nothing is released, and nothing kept.</p>
        </>
      )}
    </aside>
  )
}

/** The wave a plan would make now. */
function Made({ of: a }: { of: View }) {
  const best = Math.min(...a.methods.map((m) => m.metres))
  const most = Math.max(1, ...a.methods.map((m) => m.metres))
  return (
    <>
      <p>
        <b>{a.takes.length === 1 ? '1 order' : `${a.takes.length} orders`}</b>,{' '}
        {a.tasks.length === 1 ? '1 task' : `${a.tasks.length} tasks`}
        {a.left.length > 0 && <span className="mark doubt"> ▲ {a.left.length} left for the next</span>}
      </p>
      {a.methods.length > 0 && (
        <table className="plain" aria-label="Ways to pick this wave">
          <thead>
            <tr>
              <th>Picked</th>
              <th style={{ textAlign: 'right' }}>Metres</th>
              <th style={{ textAlign: 'right' }} title="What the picker walks who walks most">
                Longest
              </th>
              <th style={{ textAlign: 'right' }}>Rounds</th>
            </tr>
          </thead>
          <tbody>
            {a.methods.map((m) => (
              <tr key={m.method} aria-current={m.own ? 'true' : undefined}>
                <td>
                  {m.own ? <b>{m.method}</b> : m.method}
                  {m.sort_scans > 0 && <div className="quiet">and {m.sort_scans} scans where it is sorted</div>}
                  {m.hand_overs > 0 && <div className="quiet">and {m.hand_overs} times handed on</div>}
                  <div
                    aria-hidden="true"
                    className="stretch"
                    style={{ width: `${Math.max(2, (100 * m.metres) / most)}%` }}
                  />
                </td>
                <td className="mono" style={{ textAlign: 'right' }}>
                  {m.metres === best ? <b>{m.metres.toLocaleString('en')}</b> : m.metres.toLocaleString('en')}
                </td>
                <td className="mono" style={{ textAlign: 'right' }}>
                  {m.longest.toLocaleString('en')}
                </td>
                <td className="mono" style={{ textAlign: 'right' }}>
                  {m.carts}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {a.why_not && <p className="quiet">{a.why_not}</p>}
      <details>
        <summary>Its tasks</summary>
        <ol className="tasks">
          {a.tasks.map((t, n) => (
            <li key={n}>
              <b>{t.crew}</b>
              {t.cart > 0 && ` · cart ${t.cart}`} · {t.lines === 1 ? '1 line' : `${t.lines} lines`}
              {t.metres !== null && <span className="quiet"> · {t.metres.toLocaleString('en')} m</span>}
              <div>
                <Codes of={t.orders} />
              </div>
              <div className="quiet">
                {t.bins.slice(0, 6).join(', ')}
                {t.bins.length > 6 && ` and ${t.bins.length - 6} more`} → {t.to || 'a bin the worker chooses'}, by
                recipe {t.recipe}
              </div>
            </li>
          ))}
        </ol>
      </details>
      {[...a.short, ...a.no_task].map((s) => (
        <p key={s} className="mark doubt" style={{ whiteSpace: 'normal' }}>
          ▲ <Told text={s} />
        </p>
      ))}
      {a.left.map((l) => (
        <p key={l.plan} className="quiet">
          <span className="code">{l.plan}</span>: {l.says}
        </p>
      ))}
    </>
  )
}

/** When the plan runs next, and what each run would take. */
function NextRuns({ of: a }: { of: View }) {
  return (
    <>
      <h3>
        Its next runs <small className="quiet">from {when(a.clock, a.time_zone)} on</small>
      </h3>
      {!a.times && <p className="quiet">It runs when the office makes it.</p>}
      {a.times && a.runs.length === 0 && <p className="quiet">It runs at {a.times}, and no order waits for it.</p>}
      <ul className="gated" aria-label="Next runs">
        {a.runs.map((r) => (
          <li key={r.at}>
            <details>
              <summary>
                <span className="mono">{when(r.at, a.time_zone)}</span> ·{' '}
                {r.takes.length === 0 ? 'no wave' : r.takes.length === 1 ? '1 order' : `${r.takes.length} orders`}
                {r.late.length > 0 && <span className="mark doubt"> ▲ {r.late.length} late</span>}
              </summary>
              <p>
                <Codes of={r.takes.filter((o) => !r.late.includes(o))} />
                {r.takes.length === 0 && 'Nothing is released in time for it.'}
              </p>
              {r.late.length > 0 && (
                <p>
                  ▲ After the day it should have left: <Codes of={r.late} />
                </p>
              )}
              {r.left.map((l) => (
                <p key={l.plan} className="quiet">
                  – <span className="code">{l.plan}</span>: {l.says}
                </p>
              ))}
            </details>
          </li>
        ))}
      </ul>
      {a.times && a.runs.length > 0 && a.runs.length < 3 && <p className="quiet">Then no order waits for it.</p>}
    </>
  )
}

/** Order numbers beside each other, in as many rows as they need. */
const Codes = ({ of: codes }: { of: string[] }) =>
  codes.map((c) => (
    <Fragment key={c}>
      <span className="code">{c}</span>{' '}
    </Fragment>
  ))
