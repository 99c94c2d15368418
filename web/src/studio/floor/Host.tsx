import Button from '@mui/material/Button'
import Tooltip from '@mui/material/Tooltip'
import { useQuery } from '@tanstack/react-query'
import { Fragment, useState } from 'react'
import { Link } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { when } from '../../shared/when'
import { useRows } from '../parts/Grid'
import { Sheet } from '../parts/Sheet'
import { Skeleton } from '../parts/Skeleton'
import { MessageLog } from './MessageLog'
import { WaitingOrders } from './WaitingOrders'
import { KINDS, OrderForm } from '../ground/OrderForm'
import { mayDo, NewRun, useBeginning, useOffice, useWorld, WorldPicker } from '../parts/WorldPicker'
import { Entry, Pick, Tick } from '../parts/controls'

type Act = Shape['CommandBody']['act']
type View = Shape['HostView']
const FEW = 6

/** The host: its orders beside what the floor knows, the messages between them, and how it behaves. */
export default function Host({ me }: { me: Shape['Me'] }) {
  const of = useWorld('newest')
  const at = useRows('messages')
  const world = of.world?.id ?? ''
  const [find, setFind] = useState('')
  const [state, setState] = useState<View['messages'][number]['state'] | ''>('')
  const [kind, setKind] = useState<(typeof KINDS)[number][0]>('purchase')
  const [form, setForm] = useState<Shape['InHostView']['order'] | 'new' | null>(null)
  const [picked, setPicked] = useState('')
  const office = useOffice(world)
  const host = useQuery({
    queryKey: ['world', world, 'host', find, state, at.page],
    enabled: !!world && at.ready,
    placeholderData: (before) => before,
    queryFn: () =>
      got(
        client.GET('/api/worlds/{id}/host', {
          params: { path: { id: world }, query: { find, state, start: at.query.start, most: at.query.most } },
        }),
      ),
  })
  const h = host.data
  const beginning = useBeginning()
  const may = mayDo(me, of.world, 'write_order')
  const tends = mayDo(me, of.world, 'set_host')
  const act = (what: Act) => office.mutate(what)
  const shown = h?.messages.find((m) => `${m.number} ${m.seq}` === picked) ?? h?.messages[0]
  return (
    <div className="page">
      <main className="main">
        <h1>Host</h1>
        <p className="lead">
          The system that owns orders. What it tells the floor, and what the floor tells it, stands below message by
          message.
        </p>
        <div className="form">
          <WorldPicker {...of} />
          {me.rights.includes('rehearse') && <NewRun name="Orders tried" begun={of.choose} />}
          <Entry
            aria-label="Find an order"
            placeholder="order, partner or item"
            value={find}
            onChange={(e) => setFind(e.target.value)}
          />
          <span style={{ flex: 1 }} />
          {may && !h?.host.outside && (
            <>
              <Pick
                aria-label="Kind of test order"
                value={kind}
                onChange={(e) => setKind(e.target.value as typeof kind)}
              >
                {KINDS.map(([value, says]) => (
                  <option key={value} value={value}>
                    {says}
                  </option>
                ))}
              </Pick>
              <Button
                variant="contained"
                disabled={beginning}
                onClick={() => act({ kind: 'try_order', order_kind: kind })}
              >
                A test order
              </Button>
              <Button disabled={beginning} onClick={() => setForm('new')}>
                Write an order
              </Button>
            </>
          )}
        </div>
        <WaitingOrders />
        {host.error && <p className="empty">{host.error.message}</p>}
        {!world && of.worlds.length === 0 && (
          <p className="empty">No run has begun yet, so there is no floor the host could talk to. Begin a run.</p>
        )}
        {!h ? (
          world && <Skeleton />
        ) : (
          <OrdersInHost
            h={h}
            may={may && !h.host.outside}
            reopens={mayDo(me, of.world, 'reopen_rest')}
            act={act}
            me={me}
            change={setForm}
          />
        )}
        {h && (
          <>
            <div className="form" style={{ marginTop: 22 }}>
              <h2 style={{ margin: 0 }}>Messages</h2>
              <Pick
                aria-label="Messages in which state"
                value={state}
                onChange={(e) => (setState(e.target.value as typeof state), at.setPage(0))}
              >
                <option value="">all</option>
                <option value="waiting">that wait</option>
                <option value="answered">accepted</option>
                <option value="refused">refused</option>
                <option value="given_up">given up</option>
              </Pick>
              <span className="quiet">
                {`${h.messages_total} in all`}
                {h.waiting > 0 && `, ${h.waiting} on their way`}
              </span>
              {tends && h.came_back > 0 && (
                <Button
                  onClick={() =>
                    h.messages
                      .filter((m) => m.state === 'given_up')
                      .forEach((m) => act({ kind: 'repeat_message', message: m.number }))
                  }
                  disabled={!h.messages.some((m) => m.state === 'given_up')}
                >
                  Repeat all given up
                </Button>
              )}
            </div>
            <MessageLog
              h={h}
              at={at}
              picked={shown ? `${shown.number} ${shown.seq}` : ''}
              pick={setPicked}
              may={tends}
              act={act}
              world={world}
            />
          </>
        )}
      </main>
      <aside className="bench" aria-label="Host stand-in">
        {h && <Behaviour key={JSON.stringify(h.host)} h={h} may={tends} act={act} />}
        {h && shown && (
          <Content key={`${h.world} ${shown.number} ${shown.seq}`} world={h.world} message={shown} zone={h.time_zone} />
        )}
      </aside>
      {form && h && <OrderForm order={form === 'new' ? null : form} world={h} close={() => setForm(null)} />}
    </div>
  )
}

function OrdersInHost({
  h,
  may,
  reopens,
  act,
  me,
  change,
}: {
  h: View
  may: boolean
  reopens: boolean
  act: (a: Act) => void
  me: Shape['Me']
  change: (o: Shape['InHostView']['order']) => void
}) {
  const [all, setAll] = useState(false)
  const [seen, setSeen] = useState('')
  const [ending, setEnding] = useState('')
  if (!h.orders.length)
    return (
      <p className="empty">No order reads like that. Make a test order, write one, or bring orders in on Orders.</p>
    )
  return (
    <>
      <table className="plain">
        <thead>
          <tr>
            <th>Order</th>
            <th>Partner, promised</th>
            <th>In the host</th>
            <th>On the floor</th>
            <th>
              <span className="sr">Acts</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {h.orders.slice(0, all ? undefined : FEW).map((o) => (
            <Fragment key={o.order.number}>
              <tr>
                <td>
                  <Link className="link mono" to={`/documents?world=${h.world}&doc=${o.order.number}`}>
                    {o.order.number}
                  </Link>
                  <div className="quiet" style={{ whiteSpace: 'nowrap' }}>
                    {KINDS.find(([k]) => k === o.order.kind)?.[1]}
                    {o.order_class && `, ${o.order_class}`}
                  </div>
                </td>
                <td>
                  {o.partner}
                  <div className="quiet" style={{ whiteSpace: 'nowrap' }}>
                    {o.order.lines.length === 1 ? '1 line' : `${o.order.lines.length} lines`},{' '}
                    <span className="mono">{o.order.promised}</span>
                  </div>
                </td>
                <td>
                  <span style={{ whiteSpace: 'nowrap' }}>
                    <span className={`mark ${o.cancelled ? 'fails' : o.confirmed ? 'holds' : 'doubt'}`}>
                      {o.cancelled ? '✕' : o.confirmed ? '●' : '○'}
                    </span>{' '}
                    {o.state}
                  </span>
                  {o.editor && (
                    <div className="quiet">
                      <Told text={`open by @${o.editor} since ${when(o.since ?? '', h.time_zone)}`} />
                    </div>
                  )}
                </td>
                <td style={{ maxWidth: 170 }}>
                  {!o.agrees && <span className="mark doubt">▲ </span>}
                  <Told text={o.floor} />
                </td>
                <td>
                  <div className="acts-row" style={{ marginTop: 0, gap: '2px 10px', minWidth: 120 }}>
                    {may && !o.cancelled && (
                      <>
                        {!o.confirmed && (
                          <button
                            className="link"
                            onClick={() => act({ kind: 'confirm_order', order: o.order.number })}
                          >
                            confirm
                          </button>
                        )}
                        <button className="link" onClick={() => change(o.order)}>
                          change
                        </button>
                        {o.order.kind === 'transfer' && o.confirmed && !o.order.shipped && (
                          <button
                            className="link"
                            onClick={() => act({ kind: 'ship_transfer', order: o.order.number })}
                          >
                            shipped
                          </button>
                        )}
                        {o.state === 'running' && (
                          <Tooltip describeChild title="No more of it is made; what has arrived is booked">
                            <button
                              className="link"
                              onClick={() => act({ kind: 'declare_output', order: o.order.number })}
                            >
                              complete
                            </button>
                          </Tooltip>
                        )}
                        {o.state === 'output complete' && (
                          <button className="link" onClick={() => setEnding(o.order.number)}>
                            end
                          </button>
                        )}
                        <Tooltip
                          describeChild
                          title={
                            o.editor === me.id
                              ? 'No longer open for editing'
                              : o.editor
                                ? 'Open for editing with you instead'
                                : 'Open for editing: nobody receives it meanwhile'
                          }
                        >
                          <button
                            className="link"
                            onClick={() =>
                              o.editor === me.id
                                ? act({ kind: 'close_order', order: o.order.number })
                                : act({ kind: 'open_order', order: o.order.number, take_over: !!o.editor })
                            }
                          >
                            {o.editor === me.id ? 'close' : o.editor ? 'take over' : 'open'}
                          </button>
                        </Tooltip>
                        {o.confirmed && !['sales', 'vendor_return'].includes(o.order.kind) && (
                          <Tooltip describeChild title="The vendor announces the plates on which it comes">
                            <button
                              className="link"
                              onClick={() => act({ kind: 'announce_order', order: o.order.number })}
                            >
                              announce
                            </button>
                          </Tooltip>
                        )}
                        <button className="link" onClick={() => act({ kind: 'cancel_order', order: o.order.number })}>
                          cancel
                        </button>
                      </>
                    )}
                    <button
                      className="link"
                      aria-expanded={seen === o.order.number}
                      aria-label={`Books of ${o.order.number}`}
                      onClick={() => setSeen(seen === o.order.number ? '' : o.order.number)}
                    >
                      {seen === o.order.number ? 'close the books' : 'books'}
                    </button>
                  </div>
                </td>
              </tr>
              {seen === o.order.number && (
                <tr>
                  <td colSpan={5}>
                    <BooksOf world={h.world} order={o.order.number} seq={h.seq} act={reopens ? act : undefined} />
                  </td>
                </tr>
              )}
            </Fragment>
          ))}
        </tbody>
      </table>
      {ending && <EndOutput order={ending} act={act} close={() => setEnding('')} />}
      {h.orders_total > FEW && (
        <p className="quiet">
          {all
            ? `${h.orders.length} of ${h.orders_total} orders. `
            : `Of ${h.orders_total} orders those touched here, then those that wait to be confirmed. `}
          <button className="link" onClick={() => setAll(!all)}>
            {all ? 'Fewer' : 'All of them'}
          </button>
        </p>
      )}
    </>
  )
}

/** Ends a production order: no more of it is taken; what did not come is given up with a reason. */
function EndOutput({ order, act, close }: { order: string; act: (a: Act) => void; close: () => void }) {
  const [why, setWhy] = useState('')
  return (
    <Sheet open onClose={close} label={`End ${order}`} fullWidth maxWidth="sm">
      <form
        style={{ padding: 20 }}
        onSubmit={(e) => {
          e.preventDefault()
          act({ kind: 'close_output', order, why: why.trim() })
          close()
        }}
      >
        <h2 style={{ marginTop: 0 }}>
          End <span className="code">{order}</span>
        </h2>
        <p>No more of it is taken then. It is refused while something of it is being built or not booked.</p>
        <label className="field">
          <span>Why the rest is given up, if less came than was ordered</span>
          <Entry value={why} maxLength={120} onChange={(e) => setWhy(e.target.value)} />
        </label>
        <div className="form">
          <Button type="submit" variant="contained">
            End it
          </Button>
          <Button onClick={close}>Leave it</Button>
        </div>
      </form>
    </Sheet>
  )
}

/** What the host believes of an order beside what the floor knows, line by line; where they differ it says in what. */
function BooksOf({ world, order, seq, act }: { world: string; order: string; seq: number; act?: (a: Act) => void }) {
  const books = useQuery({
    queryKey: ['world', world, 'books', order, seq],
    placeholderData: (before) => before,
    queryFn: () => got(client.GET('/api/worlds/{id}/host/{order}', { params: { path: { id: world, order } } })),
  })
  if (!books.data) return <Skeleton />
  const n = (value: number | null) => value?.toLocaleString('en')
  return (
    <table className="plain" aria-label={`Books of ${order}`}>
      <thead>
        <tr>
          <th>Line</th>
          <th>The host believes</th>
          <th>The floor knows</th>
          <th>They differ</th>
        </tr>
      </thead>
      <tbody>
        {books.data.lines.map((b) => (
          <tr key={b.line}>
            <td>
              {b.line} <span className="code">{b.item}</span>
              <div className="quiet">in {b.unit}</div>
            </td>
            <td>
              ordered {n(b.ordered)}
              <div>received {n(b.received)}</div>
            </td>
            <td>
              {b.floor_ordered === null ? (
                <span className="quiet">nothing of it</span>
              ) : (
                <>
                  ordered {n(b.floor_ordered)}
                  <div>
                    noted {n(b.noted)}, arrived {n(b.arrived)}, told of {n(b.told)}
                  </div>
                  {b.closed > 0 && (
                    <div>
                      {n(b.closed)} not waited for{' '}
                      {act && (
                        <button
                          className="link"
                          aria-label={`Wait for ${b.item} again`}
                          onClick={() => act({ kind: 'reopen_rest', order, item: b.item })}
                        >
                          wait for them again
                        </button>
                      )}
                    </div>
                  )}
                </>
              )}
            </td>
            <td>
              {b.differs ? (
                <span className="mark doubt" style={{ whiteSpace: 'normal' }}>
                  ▲ {b.differs}
                </span>
              ) : (
                <span className="quiet">in nothing</span>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

/** How the stand-in behaves: each change holds from the next message on. */
function Behaviour({ h, may, act }: { h: View; may: boolean; act: (a: Act) => void }) {
  const [mine, setMine] = useState(h.host)
  const keep = (some: Partial<View['host']>) => {
    const next = { ...mine, ...some }
    setMine(next)
    act({ kind: 'set_host', host: next })
  }
  const tick = (name: 'down' | 'twice', says: string, hint: string) => (
    <label className="tickline">
      <Tick checked={mine[name]} disabled={!may} onChange={(e) => keep({ [name]: e.target.checked })} />
      <span>
        {says} <span className="quiet">{hint}</span>
      </span>
    </label>
  )
  const seconds = (name: 'confirm_seconds' | 'book_seconds', says: string) => (
    <label className="field">
      <span>{says}</span>
      <Entry
        type="number"
        min={0}
        max={86400}
        value={mine[name]}
        disabled={!may}
        onChange={(e) => setMine({ ...mine, [name]: Number(e.target.value) })}
        onBlur={() => mine[name] !== h.host[name] && keep({})}
        onKeyDown={(e) => e.key === 'Enter' && keep({})}
      />
    </label>
  )
  return (
    <>
      <h2>How the host behaves</h2>
      {h.kind === 'live' && (
        <label className="tickline">
          <Tick checked={mine.outside} disabled={!may} onChange={(e) => keep({ outside: e.target.checked })} />
          <span>
            A real host is connected{' '}
            <span className="quiet">it tells orders and answers over its own interface; the stand-in keeps still</span>
          </span>
        </label>
      )}
      {!mine.outside && (
        <>
          <div className="fields two-cols">
            {seconds('confirm_seconds', 'seconds until the floor hears')}
            {seconds('book_seconds', 'seconds until it answers')}
          </div>
          {tick('down', 'It is down', 'messages are tried again, then given up')}
          {tick('twice', 'It answers twice', 'the second answer must change nothing')}
          <label className="tickline">
            <Tick
              checked={!!mine.refuses}
              disabled={!may}
              onChange={(e) => keep({ refuses: e.target.checked ? 'The period is closed.' : '' })}
            />
            <span>It refuses what it is told</span>
          </label>
          {mine.refuses && (
            <Entry
              style={{ width: '100%' }}
              aria-label="Why it refuses"
              value={mine.refuses}
              disabled={!may}
              onChange={(e) => setMine({ ...mine, refuses: e.target.value })}
              onBlur={() => mine.refuses !== h.host.refuses && keep({})}
            />
          )}
        </>
      )}
    </>
  )
}

function Content({ world, message, zone }: { world: string; message: View['messages'][number]; zone: string }) {
  const [form, setForm] = useState<'json' | 'csv' | 'ubl'>('json')
  const text = useQuery({
    queryKey: ['world', world, 'message', message.number, form],
    queryFn: async () => {
      const answer = await fetch(`/api/worlds/${world}/messages/${encodeURIComponent(message.number)}?form=${form}`)
      if (!answer.ok) throw new Error(((await answer.json()) as Shape['Problem']).title)
      return answer.text()
    },
  })
  return (
    <>
      <h2 style={{ marginTop: 20 }}>
        <span>
          Message <span className="code">{message.number}</span>
        </span>
        <small>
          {(['json', 'csv', 'ubl'] as const).map((f) => (
            <button
              key={f}
              className="link quiet"
              aria-pressed={f === form}
              style={{ marginLeft: 10, fontWeight: f === form ? 700 : 400 }}
              onClick={() => setForm(f)}
            >
              {f.toUpperCase()}
            </button>
          ))}
        </small>
      </h2>
      <p className="quiet" style={{ margin: '0 0 6px' }}>
        {message.called}, {message.way}
        {message.sent && `, sent ${when(message.sent, zone, true)}`}
        {message.tries > 0 && `, delivered or tried ${message.tries === 1 ? 'once' : `${message.tries} times`}`}
      </p>
      {text.error ? (
        <p className="empty">{text.error.message}</p>
      ) : (
        <pre className="paper" role="region" aria-label="The message" tabIndex={0}>
          {text.data}
        </pre>
      )}
    </>
  )
}
