import { useQuery } from '@tanstack/react-query'
import { Link, useNavigate } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { Trail, Why } from '../parts/Trail'

type Expectation = Shape['PinBody']['expectation']

const HOW: Record<string, string> = { scanned: 'Scanned', typed: 'Typed', tapped: 'Tapped' }

/** One entry of the log; opened, it shows its trail, and offers to pin it, go on from it, or change its rule. */
export function LogRow(props: {
  entry: Shape['EntryView']
  world: string
  open: boolean
  toggle: () => void
  /** Not on a live floor: nothing there is rehearsed or gone back to. */
  pin?: (e: Expectation) => void
  rewind?: () => void
}) {
  const { entry, world, open, toggle, pin, rewind } = props
  return (
    <li id={`entry-${entry.seq}`}>
      <button className="row" aria-expanded={open} onClick={toggle}>
        <span className="seq">{String(entry.seq).padStart(2, '0')}</span>
        <span className="seq">{entry.device ?? (entry.who === 'host' ? 'host' : 'office')}</span>
        <span className={entry.done ? '' : 'refused'}>
          {entry.scanned && (
            <>
              {HOW[entry.how]} <span className="code">{entry.scanned}</span>:{' '}
            </>
          )}
          {entry.lost && <span title={entry.lost}>⇄ </span>}
          {!entry.done && <b>✕ refused. </b>}
          <Told text={entry.says} />
        </span>
      </button>
      {open && (
        <div className="open">
          <div className="quiet">
            <Told
              text={`@${entry.who}${entry.device ? ` on handset \`${entry.device}\`` : ''}${entry.actor !== entry.who ? `, played by @${entry.actor}` : ''}, ${new Date(entry.at).toISOString().slice(11, 19)} UTC`}
            />
          </div>
          {entry.lost && <p className="quiet">{entry.lost}</p>}
          {entry.details.length > 0 && (
            <ul>
              {entry.details.map((d, n) => (
                <li key={n}>
                  <Told text={d} />
                </li>
              ))}
            </ul>
          )}
          {entry.trails.map((trail, n) => (
            <div key={n}>
              {entry.trails.length > 1 && <h3 className="asked">{trail.asks}</h3>}
              {trail.docks.length > 0 && <Across docks={trail.docks} />}
              <Counted world={world} entry={entry} trail={trail} n={n} />
              {pin && <Chosen world={world} entry={entry} trail={trail} pin={pin} />}
            </div>
          ))}
          <div className="acts-row">
            {!entry.done && pin && (
              <button className="link" onClick={() => pin({ kind: 'refused', code: entry.code })}>
                Expect this refusal
              </button>
            )}
            {entry.done && (
              <Link to={`/stock?world=${world}&from=${entry.seq - 1}&to=${entry.seq}`}>Stock before and after</Link>
            )}
            {rewind && (
              <button className="link" onClick={rewind}>
                Go on from here
              </button>
            )}
          </div>
        </div>
      )}
    </li>
  )
}

/** What stands for a tie that was made before the goods came. */
const PLANNED = 'planned'

/** For whom goods that came need not be stored, or why they are. */
function Across({ docks }: { docks: Shape['DockView'][] }) {
  return (
    <ul className="trail" aria-label="Across the dock">
      {docks.map((d, n) => (
        <li key={n} className={d.takes ? 'chosen' : 'does_not_apply'}>
          <span className="mark">{d.takes ? '✓' : '–'}</span>
          <span>
            {d.rule === PLANNED ? (
              'Tied beforehand'
            ) : (
              <Link to={`/steps/${d.rule}`}>Across, rule {d.number ?? d.rule}</Link>
            )}{' '}
            for <span className="code">{d.line}</span>: <Told text={d.says} />
          </span>
        </li>
      ))}
    </ul>
  )
}

/** The trail as recorded at once, the counts behind it when they have come. */
function Counted({
  world,
  entry,
  trail,
  n,
}: {
  world: string
  entry: Shape['EntryView']
  trail: Shape['TrailView']
  n: number
}) {
  const why = useQuery({
    queryKey: ['why', world, entry.seq, n],
    staleTime: Infinity,
    queryFn: () =>
      got(
        client.GET('/api/worlds/{id}/entries/{seq}/why', {
          params: { path: { id: world, seq: entry.seq }, query: { trail: n } },
        }),
      ),
  })
  const back = `?run=${world}&at=${entry.seq - 1}`
  return why.data ? <Why why={why.data} back={back} /> : <Trail lines={trail.lines} back={back} />
}

/** What may be expected of a choice, and the way to change it. */
function Chosen({
  world,
  entry,
  trail,
  pin,
}: {
  world: string
  entry: Shape['EntryView']
  trail: Shape['TrailView']
  pin: (e: Expectation) => void
}) {
  const go = useNavigate()
  const chose = trail.lines.find((l) => l.outcome === 'chosen' || l.outcome === 'part')
  const bin = trail.bins[0]
  return (
    <div className="acts-row">
      {bin && (
        <button className="link" onClick={() => pin({ kind: 'chosen', bin, rule: '', zone: '' })}>
          Expect bin {bin}
        </button>
      )}
      {chose && (
        <button className="link" onClick={() => pin({ kind: 'chosen', bin: '', rule: chose.rule, zone: '' })}>
          Expect rule {chose.number}
        </button>
      )}
      <button
        className="link"
        onClick={() =>
          void go(`/bin-rules/${chose?.rule ?? trail.lines.at(-1)?.rule}?run=${world}&at=${entry.seq - 1}`)
        }
      >
        Change this rule and go on from here
      </button>
    </div>
  )
}
