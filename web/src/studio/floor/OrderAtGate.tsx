import Button from '@mui/material/Button'
import { useState } from 'react'
import { Link } from 'react-router'
import type { Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { Entry, Pick, Tick } from '../parts/controls'
import { GateRow, GateSays, Lacking } from '../parts/GateSays'
import type { Act } from './lists'
import { Reasoned } from './Reasoned'
import { STANDS } from './Release'

type Line = Shape['PromisedView']
type Asking = '' | 'pass' | 'undo' | 'gate' | 'yes' | 'no'

/** One order that goes out: what its gate says and why, what of each line is on hand, on its way and short, and what one may do. */
export function OrderAtGate(props: {
  of: Shape['WaitsView']
  world: string
  gates: string[]
  act: (a: Act) => void
  may: (kind: string) => boolean
  pin?: (e: Shape['PinBody']['expectation']) => void
}) {
  const { of: o, world, gates, act, may, pin } = props
  const { judged: j, release } = o
  const order = j.order
  const [asking, setAsking] = useState<Asking>('')
  const [gate, setGate] = useState('')
  const [asked, setAsked] = useState<Shape['AtGateView'] | null>(null)
  const [shifting, setShifting] = useState<Line | null>(null)
  const [mark, kind, words] = STANDS[o.stands]
  const [lines, setLines] = useState<number[]>([])
  const goes = o.lines.filter((l) => l.goes > 0).map((l) => l.line)
  const mine = lines.filter((n) => goes.includes(n))
  const waits = o.stands === 'stop' || o.stands === 'warn' || o.stands === 'pass'
  const stopping = j.row.filter((g) => g.verdict === 'stop')
  const decides = j.row.find((g) => g.verdict === o.stands)?.name ?? j.gate
  const ask = (how: Asking, g: Shape['AtGateView']) => {
    setAsked(g)
    setAsking(how)
  }
  const parts = waits && o.stands !== 'stop' && goes.length > 1 && may('release_lines')
  return (
    <>
      <h2>
        <Link className="link code" to={`/documents?world=${world}&doc=${order}`}>
          {order}
        </Link>{' '}
        <span className={`mark ${kind}`}>
          {mark} {j.rate}, {words}
        </span>
      </h2>
      <p>
        {j.partner}, leaves on {o.leaves}
        {o.carrier && ` by ${o.carrier}`}.
      </p>
      {release && (
        <p>
          <Told text={`@${release.who}`} /> released it into <span className="code">{release.shipment}</span>
          {release.verdict === 'warn' && ' with a warning'}
          {release.verdict === 'stop' && ` past its gate: ${release.passed}`}. On hand was {release.rate}.
          {release.waits && ` It waits for ${release.waits}.`}
          {release.waves.map((w) => (
            <span key={w}>
              {' '}
              In wave{' '}
              <Link className="link code" to={`/board?world=${world}&wave=${w}`}>
                {w}
              </Link>
              .
            </span>
          ))}
        </p>
      )}
      {o.hold && (
        <p>
          <Told text={o.hold} />
        </p>
      )}
      {o.stands !== 'released' && (
        <>
          <GateRow of={j}>
            {(g) =>
              g.kind === 'word' &&
              waits &&
              may('say_to_order') && (
                <span className="say">
                  {g.verdict !== 'pass' && (
                    <Button size="small" onClick={() => ask('yes', g)} aria-label={`Say yes at ${g.name}`}>
                      Say yes
                    </Button>
                  )}
                  <Button size="small" onClick={() => ask('no', g)} aria-label={`Say no at ${g.name}`}>
                    Say no
                  </Button>
                </span>
              )
            }
          </GateRow>
          <GateSays of={j} />
        </>
      )}
      <div className="form">
        {waits && o.stands !== 'stop' && may('release_orders') && (
          <Button
            variant="contained"
            onClick={() => act({ kind: 'release_orders', orders: [order], warned: true, whole: false, dry: false })}
          >
            Release it
          </Button>
        )}
        {parts && (
          <Button
            disabled={!mine.length}
            onClick={() => act({ kind: 'release_lines', order, lines: mine })}
            title="Tick them below"
          >
            {mine.length === 1 ? 'Release 1 line' : mine.length ? `Release ${mine.length} lines` : 'Release lines'}
          </Button>
        )}
        {o.stands === 'stop' && may('pass_gate') && (
          <Button onClick={() => setAsking('pass')}>Let it past its gate</Button>
        )}
        {waits && !release && may('change_gate') && <Button onClick={() => setAsking('gate')}>Another gate</Button>}
        {release && may('undo_release') && <Button onClick={() => setAsking('undo')}>Take the release back</Button>}
        {pin && (
          <button
            className="link"
            onClick={() =>
              pin({ kind: 'goes', order, stands: o.stands, rate: j.rate, gate: decides, leaves_with: null })
            }
          >
            Pin how it stands
          </button>
        )}
      </div>
      <ul className="covered" aria-label={`Lines of ${order}`}>
        {o.lines.map((l) => (
          <li key={l.line}>
            {parts && l.goes > 0 && (
              <Tick
                aria-label={`Take line ${l.line}`}
                checked={mine.includes(l.line)}
                onChange={() => setLines(mine.includes(l.line) ? mine.filter((n) => n !== l.line) : [...mine, l.line])}
              />
            )}{' '}
            <span className={`mark ${l.lacks ? (l.short ? 'fails' : 'doubt') : 'holds'}`}>
              {l.lacks ? (l.short ? '✕' : '▲') : '●'}
            </span>{' '}
            {l.line}. {l.name}: {l.on_hand} of {l.wanted} on hand
            {l.kept && `, ${l.kept} kept for it in bins`}
            <Lacking of={l} />.
            {may('tie_through') &&
              l.on_way
                .filter((t) => t.may || t.straight > 0)
                .map((t) => (
                  <span key={`${t.order} ${t.line}`}>
                    {' '}
                    {t.straight > 0 &&
                      `Of ${t.order} ${t.straight.toLocaleString('en')} go straight on when they come. `}
                    <button
                      className="link"
                      onClick={() =>
                        act({
                          kind: 'tie_through',
                          inbound: t.order,
                          inbound_line: t.line,
                          order,
                          line: l.line,
                          quantity: t.straight > 0 ? 0 : t.quantity,
                        })
                      }
                    >
                      {t.straight > 0 ? 'Store it after all' : `Straight on from ${t.order}`}
                    </button>
                  </span>
                ))}
            {l.others.length > 0 && waits && may('shift_cover') && (
              <>
                {' '}
                <button className="link" onClick={() => setShifting(l)}>
                  Take from another order
                </button>
              </>
            )}
          </li>
        ))}
      </ul>
      <Reasoned
        open={asking === 'pass'}
        label="Past its gate"
        title={`Let ${order} past its ${stopping.length > 1 ? 'gates' : 'gate'}`}
        says={`${stopping.map((g) => `${g.name} ${g.says.replaceAll('@', '')}`).join('; ')}. It is released all the same, with your name and why.`}
        does="Release it"
        done={(why) => act({ kind: 'pass_gate', order, why })}
        close={() => setAsking('')}
      />
      <Reasoned
        open={asking === 'undo'}
        label="Take the release back"
        title={`Take the release of ${order} back`}
        says="What is kept for it in bins is given up and promised to it as before; its shipment goes on without it, or ends."
        does="Take it back"
        done={(why) => act({ kind: 'undo_release', order, why })}
        close={() => setAsking('')}
      />
      <Reasoned
        open={asking === 'yes' || asking === 'no'}
        label={asking === 'no' ? 'Say no' : 'Say yes'}
        title={`${asking === 'no' ? 'No' : 'Yes'} to ${order} at ${asked?.name ?? ''}`}
        says={`It stands with your name${asking === 'no' ? ' and why' : ''}, until the host changes the order.`}
        does={asking === 'no' ? 'Say no' : 'Say yes'}
        optional={asking === 'yes'}
        done={(why) => act({ kind: 'say_to_order', order, gate: asked?.id ?? '', yes: asking === 'yes', why })}
        close={() => setAsking('')}
      />
      <Reasoned
        open={asking === 'gate'}
        label="Another gate"
        title={`Another gate for ${order}`}
        says={`It has ${j.gate || 'none'}. What the rules say later leaves the gate of an order alone that is on the floor.`}
        does="Give it this gate"
        done={(why) => act({ kind: 'change_gate', order, gate, why })}
        close={() => setAsking('')}
      >
        <label className="field">
          <span>Gate</span>
          <Pick value={gate} onChange={(e) => setGate(e.target.value)}>
            <option value="">none: it passes</option>
            {gates.map((g) => (
              <option key={g}>{g}</option>
            ))}
          </Pick>
        </label>
      </Reasoned>
      {shifting && <Shift order={order} line={shifting} act={act} close={() => setShifting(null)} />}
    </>
  )
}

/** Gives a line what a line of another order has on hand. */
function Shift(props: { order: string; line: Line; act: (a: Act) => void; close: () => void }) {
  const { order, line, act, close } = props
  const [at, setAt] = useState(0)
  const from = line.others[at]
  const [quantity, setQuantity] = useState(String(Math.min(line.lacks, from?.on_hand ?? 0)))
  if (!from) return null
  return (
    <Reasoned
      open
      label="Take from another order"
      title={`${line.name} for ${order}`}
      says={`${line.on_hand} of ${line.wanted} are on hand. The other order lacks what it gives, and looks for it elsewhere.`}
      does={`Promise it to ${order}`}
      ready={/^[1-9]\d*$/.test(quantity.trim())}
      done={(why) =>
        act({
          kind: 'shift_cover',
          order: from.order,
          line: from.line,
          to_order: order,
          to_line: line.line,
          quantity: Number(quantity),
          why,
        })
      }
      close={close}
    >
      <label className="field">
        <span>From</span>
        <Pick value={at} onChange={(e) => setAt(Number(e.target.value))}>
          {line.others.map((o, n) => (
            <option key={`${o.order} ${o.line}`} value={n}>
              {o.order} line {o.line}, has {o.told}
            </option>
          ))}
        </Pick>
      </label>
      <label className="field">
        <span>How much</span>
        <Entry inputMode="numeric" value={quantity} maxLength={9} onChange={(e) => setQuantity(e.target.value)} />
      </label>
    </Reasoned>
  )
}
