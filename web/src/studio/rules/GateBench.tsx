import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { client, got, type Shape } from '../../shared/client'
import { DRAFT, useDraft } from '../parts/data'
import { FloorAsked, NoAnswer } from '../parts/bench'
import { WaitAt } from '../parts/WaitAt'
import { Pick } from '../parts/controls'
import { GateRow, GateSays, Lacking, MARK } from '../parts/GateSays'

type Judged = Shape['LackingView']
const VERDICTS = ['stop', 'warn', 'pass'] as const

/** All open orders that go out, with what the gates of the draft say of each, and why; nothing is released. */
export default function GateBench() {
  const draft = useDraft()
  const [world, setWorld] = useState('')
  const [verdict, setVerdict] = useState<'' | Judged['verdict']>('')
  const [at, setAt] = useState('')
  const answer = useQuery({
    queryKey: ['bench', 'gates', world, verdict, at, draft.data?.rulebook],
    enabled: !!draft.data,
    placeholderData: (before) => before,
    retry: false,
    queryFn: () =>
      got(
        client.POST('/api/drafts/{id}/bench/gates', {
          params: { path: { id: DRAFT } },
          body: { world: world || null, verdict, at },
        }),
      ),
  })
  const counts = answer.data?.counts ?? {}
  const every = VERDICTS.reduce((n, v) => n + (counts[v] ?? 0), 0)
  return (
    <aside className="bench" aria-label="Bench">
      <h2>
        Bench <small className="quiet">which orders may go</small>
      </h2>
      <div className="ask">
        <FloorAsked id="gate-floor" value={world} set={setWorld} />
        <label className="quiet" htmlFor="gate-verdict">
          Orders
        </label>
        <Pick id="gate-verdict" value={verdict} onChange={(e) => setVerdict(e.target.value as typeof verdict)}>
          <option value="">all {every}</option>
          {VERDICTS.map((v) => (
            <option key={v} value={v}>
              {counts[v] ?? 0} {MARK[v][2]}
            </option>
          ))}
        </Pick>
      </div>
      {answer.data && <WaitAt of={answer.data.waiting} at={at} set={setAt} />}
      <NoAnswer error={answer.error} />
      {answer.data && !answer.error && answer.data.orders.length === 0 && (
        <p className="empty">No order that goes out is so. Orders come by file, by form or from the host.</p>
      )}
      <ul className="gated" aria-label="Orders and their verdicts">
        {answer.data?.orders.map((o) => (
          <Order key={o.order} of={o} />
        ))}
      </ul>
      <p className="quiet">
        As if they claimed what is free one after another, the earliest promised first. Nothing is released.
      </p>
    </aside>
  )
}

/** One order: its rate and verdict, by which gate and whose, when it would be another, and what is missing by line. */
function Order({ of: o }: { of: Judged }) {
  const [mark, kind, words] = MARK[o.verdict]
  return (
    <li>
      <details>
        <summary>
          <span className="code">{o.order}</span> {o.partner}
          <span className={`mark ${kind}`}>
            {mark} {o.rate}, {words}
            {o.waits_at && ` at ${o.waits_at}`}
          </span>
        </summary>
        <GateRow of={o} supposed />
        <GateSays of={o} />
        {o.lacking.length > 0 && (
          <ul>
            {o.lacking.map((l) => (
              <li key={l.line}>
                Line {l.line}, {l.name}: {l.on_hand} of {l.wanted} on hand
                <Lacking of={l} />
              </li>
            ))}
          </ul>
        )}
      </details>
    </li>
  )
}
