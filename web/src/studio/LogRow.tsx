import { useQuery } from '@tanstack/react-query'
import { useNavigate } from 'react-router'
import { client, got, type Shape } from '../shared/client'
import { Told } from '../shared/Told'
import { Trail, Why } from './Trail'

type Expectation = Shape['PinBody']['expectation']

const HOW: Record<string, string> = { scanned: 'Scanned', typed: 'Typed', tapped: 'Tapped' }

/** One entry of the log; opened, it shows its trail, and offers to pin it, go on from it, or change its rule. */
export function LogRow(props: { entry: Shape['EntryView']; world: string; open: boolean; toggle: () => void; pin: (e: Expectation) => void; rewind: () => void }) {
  const { entry, world, open, toggle, pin, rewind } = props
  const go = useNavigate()
  const chose = entry.trail.find((l) => l.outcome === 'chosen')
  return (
    <li id={`entry-${entry.seq}`}>
      <button className="row" aria-expanded={open} onClick={toggle}>
        <span className="seq">{String(entry.seq).padStart(2, '0')}</span>
        <span className="seq">
          {entry.device ?? (entry.who === 'host' ? 'host' : 'office')}
        </span>
        <span className={entry.done ? '' : 'refused'}>
          {entry.scanned && (
            <>
              {HOW[entry.how]} <span className="code">{entry.scanned}</span>:{' '}
            </>
          )}
          {!entry.done && <b>✕ refused. </b>}
          <Told text={entry.says} />
        </span>
      </button>
      {open && (
        <div className="open">
          <div className="quiet">
            <Told text={`@${entry.who}${entry.device ? ` on handset \`${entry.device}\`` : ''}${entry.actor !== entry.who ? `, played by @${entry.actor}` : ''}, ${new Date(entry.at).toISOString().slice(11, 19)} UTC`} />
          </div>
          {entry.details.length > 0 && (
            <ul>
              {entry.details.map((d, n) => (
                <li key={n}>
                  <Told text={d} />
                </li>
              ))}
            </ul>
          )}
          {entry.trail.length > 0 && <Counted world={world} entry={entry} />}
          <div className="acts-row">
            {!entry.done && (
              <button className="link" onClick={() => pin({ kind: 'refused', code: entry.code })}>
                Expect this refusal
              </button>
            )}
            {entry.chosen_bin && (
              <button className="link" onClick={() => pin({ kind: 'chosen', bin: entry.chosen_bin ?? '', rule: '', zone: '' })}>
                Expect bin {entry.chosen_bin}
              </button>
            )}
            {chose && (
              <button className="link" onClick={() => pin({ kind: 'chosen', bin: '', rule: chose.rule, zone: '' })}>
                Expect rule {chose.number}
              </button>
            )}
            {entry.trail.length > 0 && (
              <button className="link" onClick={() => void go(`/bin-rules/${chose?.rule ?? entry.trail.at(-1)?.rule}?run=${world}&at=${entry.seq - 1}`)}>
                Change this rule and go on from here
              </button>
            )}
            <button className="link" onClick={rewind}>
              Go on from here
            </button>
          </div>
        </div>
      )}
    </li>
  )
}

/** The trail as recorded at once, the counts behind it when they have come. */
function Counted({ world, entry }: { world: string; entry: Shape['EntryView'] }) {
  const why = useQuery({
    queryKey: ['why', world, entry.seq],
    staleTime: Infinity,
    queryFn: () => got(client.GET('/api/worlds/{id}/entries/{seq}/why', { params: { path: { id: world, seq: entry.seq } } })),
  })
  const back = `?run=${world}&at=${entry.seq - 1}`
  return why.data ? <Why why={why.data} back={back} /> : <Trail lines={entry.trail} back={back} />
}
