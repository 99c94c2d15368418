import { useCallback, useEffect, useLayoutEffect, useRef, useState } from 'react'
import { Lines } from '../handset/Lines'
import { useCame } from '../handset/scanner'
import { Touch } from '../handset/Touch'
import { useHandset, type Act } from '../handset/useHandset'
import { client, got, Trouble, type Shape } from '../shared/client'
import { useLive } from '../shared/live'
import { Code, Told } from '../shared/Told'

type Look = Shape['StationView']
type Question = Shape['Question']

/** The keys of this screen, each with Alt; Enter confirms what is proposed, Escape goes back. */
const KEYS: Record<string, string> = {
  close_carton: 'c',
  pack_rest: 'a',
  new_carton: 'n',
  counted_again: 'w',
  pack_short: 's',
  reopen_carton: 'o',
  print_label: 'p',
  yes: 'y',
  leave: 'l',
}

export function Bench({
  me,
  world,
  people,
  out,
  elsewhere,
}: {
  me: Shape['Me']
  people: { id: string; name: string }[]
  world: Shape['WorldHead']
  out: () => void
  elsewhere: () => void
}) {
  const [code, setCode] = useState(() => localStorage.getItem(`station ${world.site}`) ?? '')
  const [seq, setSeq] = useState<number | undefined>(undefined)
  const [look, setLook] = useState<Look | null>(null)
  const [says, setSays] = useState('')
  const old = useLive((moved) => {
    if (moved.what === 'world' && moved.id === world.id) setSeq(moved.to)
    if (moved.what === 'again') setSeq((n) => n)
  }, world.id)
  const device = `bench ${code || 'none'}`
  // who rehearses packs with the hands of somebody whose crew does
  const lends = world.kind === 'rehearsal' && me.rights.includes('rehearse')
  const [hands, setHands] = useState(() => (lends ? (localStorage.getItem('station hands') ?? me.id) : me.id))
  const hand = useHandset({ world: world.id, device, person: hands, tray: false, seq })
  const { view, act, reply, waiting, outOfTouch } = hand
  const at = view?.seq ?? seq
  useEffect(() => {
    let gone = false
    got(client.GET('/api/worlds/{id}/stations', { params: { path: { id: world.id }, query: { device } } })).then(
      (found) => !gone && setLook(found),
      (trouble: unknown) => !gone && setSays(trouble instanceof Trouble ? trouble.message : String(trouble)),
    )
    return () => {
      gone = true
    }
  }, [world.id, device, at, seq])
  const station = look?.stations.find((s) => s.code === code)
  const flow = view?.menu.find((f) => f.purpose === 'pack')
  const question = view?.question ?? null
  // the flow that packs is opened when the screen comes up, and the bench said by itself
  useEffect(() => {
    if (station && view && !question && flow && !waiting) act({ kind: 'open_flow', flow: flow.id })
  }, [station, view, question, flow, waiting, act])
  const told = useRef('')
  useEffect(() => {
    if (!station || !question || question.asks !== 'packed' || waiting || !look) return
    const place = `${question.dialogue} ${station.bin}`
    if (look.at === station.bin || told.current === place) return
    told.current = place
    const scan = { text: station.bin, how: 'tapped' as const }
    act({ kind: 'answer', dialogue: question.dialogue, scan, step: question.step })
  }, [station, question, waiting, look, act])
  if (!look) return <main className="st-choose">{says && <p>{says}</p>}</main>
  if (!station)
    return (
      <main className="st-choose">
        <h1>Which bench is this?</h1>
        {look.stations.length === 0 && (
          <p>This site has no pack station. They are in the catalogue, under Pack stations.</p>
        )}
        {look.stations.map((s) => (
          <button
            key={s.code}
            className="st-btn"
            onClick={() => {
              localStorage.setItem(`station ${world.site}`, s.code)
              setCode(s.code)
            }}
          >
            {s.name}
            <small>
              {s.bin}
              {s.scale ? ', with a scale' : ', without a scale'}
            </small>
          </button>
        ))}
        <button className="st-btn plain" onClick={elsewhere}>
          Other floor
        </button>
      </main>
    )
  const packing = look.packing
  return (
    <main className={`st${outOfTouch ? ' out' : ''}`} data-entry={view?.seq}>
      <header className="st-top">
        <strong>{station.name}</strong>
        <Code>{station.bin}</Code>
        <span>{station.scale ? `scale ${station.scale}` : 'no scale'}</span>
        <span className="st-grow">
          {world.name}, {world.kind === 'live' ? 'live floor' : 'rehearsal'}
        </span>
        <Touch waits={outOfTouch} sends={waiting} old={old} />
        {lends ? (
          <select
            aria-label="With the hands of"
            value={hands}
            onChange={(e) => {
              localStorage.setItem('station hands', e.target.value)
              setHands(e.target.value)
            }}
          >
            {people.map((x) => (
              <option key={x.id} value={x.id}>
                {x.name}
              </option>
            ))}
          </select>
        ) : (
          <span>{me.name}</span>
        )}
        <button className="st-link" onClick={() => setCode('')}>
          Other bench
        </button>
        <button className="st-link" onClick={out}>
          Sign out
        </button>
      </header>
      <div className="st-main">
        <section className="st-work" aria-label="What is packed">
          {packing ? (
            <>
              <Carton packing={packing} question={question} act={act} />
              <Left packing={packing} />
            </>
          ) : (
            <Waiting look={look} question={question} act={act} />
          )}
        </section>
        <aside className="st-ask" aria-label="The question">
          {question ? (
            <Asked key={`${question.dialogue} ${question.step}`} question={question} act={act} keyAct={hand.key} />
          ) : (
            <p>
              {flow
                ? 'The bench comes up.'
                : 'No flow that packs is on a menu of your crews. The analyst puts one there, under Scanner.'}
            </p>
          )}
          <div
            className={`st-reply${reply ? (reply.good === null ? ' kept' : reply.good ? ' good' : ' bad') : ''}`}
            role="status"
          >
            {reply && (
              <>
                <b>{reply.good === null ? '… waiting' : reply.good ? '✓ done' : '✕ refused'}</b>{' '}
                <Told text={reply.says} />
              </>
            )}
          </div>
        </aside>
      </div>
      <footer className="st-strip" aria-label="Cartons of this shipment">
        {packing && packing.strip.length > 0 ? (
          packing.strip.map((c) => (
            <div key={c.number} className={`st-box${c.stands === 'open' ? ' open' : ''}`}>
              <b>{c.name}</b> {c.weight}
              <Code>{c.number}</Code>
              <small>
                {c.stands}
                {c.pieces && `: ${c.pieces}`}
              </small>
            </div>
          ))
        ) : (
          <small>
            {packing
              ? 'No carton yet: the first thing that is scanned begins one.'
              : 'What is packed of a shipment stands here, carton by carton.'}
          </small>
        )}
      </footer>
    </main>
  )
}

type Acting = ReturnType<typeof useHandset>['act']
type Keying = ReturnType<typeof useHandset>['key']

function Waiting({ look, question, act }: { look: Look; question: Question | null; act: Acting }) {
  if (look.waits.length === 0)
    return (
      <div className="st-none">
        <h2>Nothing waits to be packed</h2>
        <p>What is picked and brought to a bench comes up here by itself.</p>
      </div>
    )
  return (
    <>
      <h2>What waits to be packed</h2>
      <table className="st-table">
        <thead>
          <tr>
            <th>Order</th>
            <th>For</th>
            <th>Stands in</th>
            <th className="n">Lines left</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {look.waits.map((w) => (
            <tr key={w.shipment}>
              <td>
                {w.orders.map((o) => (
                  <Code key={o}>{o}</Code>
                ))}
              </td>
              <td>{w.partner}</td>
              <td>
                {w.stands.map((b) => (
                  <Code key={b}>{b}</Code>
                ))}
              </td>
              <td className="n">{w.lines || 'in cartons'}</td>
              <td>
                <button
                  className="st-btn small"
                  disabled={question?.asks !== 'packed'}
                  onClick={() => {
                    if (!question) return
                    const scan = { text: w.shipment, how: 'tapped' as const }
                    act({ kind: 'answer', dialogue: question.dialogue, scan, step: question.step })
                  }}
                >
                  {w.begun ? 'Go on' : 'Begin'}
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  )
}

function Carton({
  packing,
  question,
  act,
}: {
  packing: NonNullable<Look['packing']>
  question: Question | null
  act: Acting
}) {
  const carton = packing.carton
  const [list, setList] = useState(false)
  const may = question?.of_line.some((by) => by.action === 'take_out')
  return (
    <section className="st-carton" aria-label="The open carton">
      <header>
        <h1>
          {carton ? (
            <>
              {carton.name} <Code>{carton.number}</Code>
            </>
          ) : packing.left.length ? (
            <>Begin {packing.proposed ? `with a ${packing.proposed.toLowerCase()}` : 'a carton'}</>
          ) : (
            'All of it is packed'
          )}
        </h1>
        <div>
          {packing.orders.map((o) => (
            <Code key={o}>{o}</Code>
          ))}{' '}
          {packing.partner}, {packing.address.join(', ')}
          {packing.carrier && `, by ${packing.carrier}`}
        </div>
      </header>
      {carton && (
        <>
          <div className="st-bars">
            <Bar word="full" of={carton.full} more={carton.size} />
            <Bar word="of what it bears" of={carton.bears} more={carton.weight} />
          </div>
          {list && question ? (
            <Lines question={question} act={act} close={() => setList(false)} />
          ) : (
            <table className="st-table">
              <tbody>
                {carton.lines.map((x) => (
                  <tr key={`${x.order} ${x.line} ${x.lot}`}>
                    <td className="n big">{x.much}</td>
                    <td>
                      {x.name}
                      {x.lot && <small> lot {x.lot}</small>}
                    </td>
                    <td>
                      <Code>{x.item}</Code>
                    </td>
                    {packing.orders.length > 1 && (
                      <td>
                        <Code>{x.order}</Code>
                      </td>
                    )}
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {carton.lines.length === 0 && <p className="st-note">It is empty.</p>}
          {may && !list && (
            <button className="st-link" onClick={() => setList(true)}>
              Take something out
            </button>
          )}
        </>
      )}
      {!carton && <p className="st-note">Of what goes in, {packing.proof}.</p>}
    </section>
  )
}

function Bar({ word, of, more }: { word: string; of: number | null; more: string }) {
  return (
    <div className="st-bar">
      <span>
        {of === null ? more : `${of} % ${word}`}
        {of !== null && more && <small>, {more}</small>}
      </span>
      {of !== null && (
        <i className={of > 100 ? 'over' : ''}>
          <b style={{ width: `${Math.min(100, of)}%` }} />
        </i>
      )}
    </div>
  )
}

function Left({ packing }: { packing: NonNullable<Look['packing']> }) {
  if (packing.left.length === 0) return null
  return (
    <section aria-label="What is left">
      <h2>
        Left to pack: {packing.left.length + packing.more} {packing.left.length + packing.more === 1 ? 'line' : 'lines'}
      </h2>
      <table className="st-table">
        <tbody>
          {packing.left.map((x) => (
            <tr key={`${x.order} ${x.line} ${x.lot} ${x.at}`}>
              <td className="n big">{x.much}</td>
              <td>
                {x.name}
                {x.lot && <small> lot {x.lot}</small>}
              </td>
              <td>
                <Code>{x.item}</Code>
              </td>
              {packing.orders.length > 1 && (
                <td>
                  <Code>{x.order}</Code>
                </td>
              )}
              <td>
                <small>{x.at}</small>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {packing.more > 0 && <p className="st-note">and {packing.more} more</p>}
    </section>
  )
}

/** What a key of this screen does, by name: an act, or the how-manyeth choice. */
function named(code: string): string {
  const letter = code.replace('Key', '').toLowerCase()
  const found = Object.entries(KEYS).find(([, key]) => key === letter)
  return found?.[0] ?? (/^Digit[1-9]$/.test(code) ? code.slice(5) : '')
}

/** What that is to a question; null: nothing. */
function keyed(name: string, asked: Question): Act | null {
  const { dialogue, step } = asked
  const pick = asked.picks[Number(name) - 1]
  if (pick) return { kind: 'answer', dialogue, scan: { text: pick.value, how: 'tapped' }, step }
  if (name === 'back') {
    const back = asked.buttons.find((b) => b.action === 'no') ?? asked.buttons.find((b) => b.action === 'back')
    return back ? pressed(back.action, asked) : null
  }
  return asked.buttons.some((b) => b.action === name) ? pressed(name, asked) : null
}

function pressed(action: string, { dialogue, step }: Question): Act {
  if (action === 'back') return { kind: 'step_back', dialogue, step }
  if (action === 'leave') return { kind: 'leave_flow', dialogue }
  return { kind: 'press', dialogue, action, step, line: null, count: null }
}

function Asked({ question, act, keyAct: key }: { question: Question; act: Acting; keyAct: Keying }) {
  const [text, setText] = useState('')
  const came = useCame()
  const box = useRef<HTMLInputElement>(null)
  useLayoutEffect(() => {
    box.current?.focus({ preventScroll: true })
  }, [])
  const answer = useCallback(
    (value: string, how: 'scanned' | 'typed' | 'tapped') => {
      if (value.trim())
        act({ kind: 'answer', dialogue: question.dialogue, scan: { text: value, how }, step: question.step })
      setText('')
    },
    [act, question],
  )
  const press = useCallback(
    (action: string) => {
      setText('')
      act(pressed(action, question))
    },
    [act, question],
  )
  const offered = question.buttons
  // with the drawing, not after it: a key may be pressed the moment its button is seen
  useLayoutEffect(() => {
    const on = (e: KeyboardEvent) => {
      if (e.repeat || (e.key !== 'Escape' && (!e.altKey || e.ctrlKey || e.metaKey))) return
      const name = e.key === 'Escape' ? 'back' : named(e.code)
      if (!name) return
      if (e.key !== 'Escape') e.preventDefault()
      setText('')
      key(name, question, (asked) => keyed(name, asked))
    }
    window.addEventListener('keydown', on)
    return () => window.removeEventListener('keydown', on)
  }, [key, question])
  const ended = () => {
    const confirm = offered.find((b) => ['confirm', 'no', 'it_is_so'].includes(b.action))
    if (!text.trim()) {
      if (confirm) press(confirm.action)
      return
    }
    const taken = came.taken(text)
    answer(taken.text, taken.how)
  }
  return (
    <>
      <h1>
        <Told text={question.title} />
      </h1>
      {question.note && <p className="st-note">{question.note}</p>}
      {question.facts.map((fact) => (
        <p key={fact} className="st-fact">
          <Told text={fact} />
        </p>
      ))}
      {question.keys !== 'none' && (
        <form
          onSubmit={(e) => {
            e.preventDefault()
            ended()
          }}
        >
          <input
            ref={box}
            className="st-scan"
            value={text}
            aria-label="Scan or type"
            placeholder={question.proposal ? `${question.proposal} ${question.unit}: Enter` : 'scan or type'}
            autoComplete="off"
            onBlur={(e) => {
              if (!e.relatedTarget) setTimeout(() => box.current?.focus({ preventScroll: true }))
            }}
            onChange={(e) => {
              came.became(e.target.value, text)
              setText(e.target.value)
            }}
            onKeyDown={(e) => {
              came.onKeyDown(e)
              if (e.key !== 'Tab' || !text) return
              e.preventDefault()
              ended()
            }}
          />
        </form>
      )}
      {question.asks !== 'packed' && question.picks.length > 0 && (
        <div className="st-picks">
          {question.picks.map((pick, n) => (
            <button key={pick.value} className="st-btn" onClick={() => answer(pick.value, 'tapped')}>
              {n < 9 && <kbd>Alt {n + 1}</kbd>}
              {pick.label}
              <small>{pick.note}</small>
            </button>
          ))}
        </div>
      )}
      <div className="st-keys">
        {offered.map((b) => (
          <button
            key={b.action}
            className={`st-btn${['confirm', 'no', 'close_carton'].includes(b.action) ? ' main' : ''}`}
            onClick={() => press(b.action)}
          >
            {b.label}
            <kbd>
              {['confirm', 'it_is_so'].includes(b.action)
                ? 'Enter'
                : ['no', 'back'].includes(b.action)
                  ? 'Esc'
                  : KEYS[b.action]
                    ? `Alt ${KEYS[b.action]?.toUpperCase()}`
                    : ''}
            </kbd>
          </button>
        ))}
      </div>
    </>
  )
}
