import type { ReactNode } from 'react'
import type { Shape } from '../../shared/client'
import { Told } from '../../shared/Told'

type At = Shape['AtGateView']
const TURNS = { stop: 'it would be stopped', warn: 'it would go with a warning', pass: 'it could go' } as const

/** What a gate says: its mark, its colour, and the words. */
export const MARK = {
  stop: ['✕', 'fails', 'stopped'],
  warn: ['▲', 'doubt', 'warned'],
  pass: ['●', 'holds', 'may go'],
} as const

/** The gates an order passes, one after another, with what each says; the host's word comes first (`supposed`: as if it was given). */
export function GateRow(props: { of: Shape['JudgedView']; supposed?: boolean; children?: (at: At) => ReactNode }) {
  const { of: j, supposed = false, children } = props
  const passed = j.confirmed || supposed
  const waits = passed ? j.waits_at : ''
  const first = j.row.findIndex((g) => g.name === j.waits_at && g.verdict === 'stop')
  return (
    <ol className="gates" aria-label={`Gates of ${j.order}`}>
      <li>
        <span className={`mark ${j.confirmed ? 'holds' : supposed ? 'quiet' : 'fails'}`}>
          {j.confirmed ? '●' : supposed ? '–' : '✕'}
        </span>{' '}
        <b>The host</b>{' '}
        {j.confirmed
          ? 'confirmed it'
          : supposed
            ? 'has not confirmed it yet; here it is as if it had'
            : 'has not confirmed it yet'}
        {!passed && <span className="here">it waits here</span>}
      </li>
      {j.row.map((g, n) => (
        <li key={g.id}>
          <span className={`mark ${MARK[g.verdict][1]}`}>{MARK[g.verdict][0]}</span> <b>{g.name}</b>{' '}
          <Told text={g.says} />
          {waits && n === first && <span className="here">it waits here</span>}
          {g.kind !== 'cover' && (
            <span className="quiet">
              {' '}
              (<Told text={g.whence} />)
            </span>
          )}
          {children?.(g)}
        </li>
      ))}
    </ol>
  )
}

/** Which gate judged an order and why that one, what it measured, and from how many per cent on it would say something else. */
export function GateSays({ of: j }: { of: Shape['JudgedView'] }) {
  return (
    <p>
      {j.gate ? (
        <>
          By <b>{j.gate}</b>: <Told text={j.whence} />. Measured is {j.measure}
          {j.fell_back && `, as ${j.fell_back}`}.{j.below > 0 && ` It is below ${j.below} %.`}
        </>
      ) : (
        <>{j.row.length > 0 ? 'No gate measures what is on hand of it.' : 'No gate is for it, so it passes.'}</>
      )}
      {j.turns.map((t) => (
        <span key={t.at}>
          {' '}
          From {t.at} % on {TURNS[t.verdict]}.
        </span>
      ))}
    </p>
  )
}

/** What of a line is on its way, by which order and when, and what is short. */
export function Lacking({ of: l }: { of: Shape['CoverView'] }) {
  return (
    <>
      {l.on_way.map((t, n) => (
        <span key={`${t.order} ${n}`}>
          , {t.told} on the way by <span className="code">{t.order}</span>, {t.promised}
        </span>
      ))}
      {l.short && (
        <>
          , <b>{l.short} short</b>
        </>
      )}
    </>
  )
}
