import type { Shape } from '../../shared/client'
import { Told } from '../../shared/Told'

const TURNS = { stop: 'it would be stopped', warn: 'it would go with a warning', pass: 'it could go' } as const

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
        <>No gate is for it, so it passes.</>
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
