import { Touch } from './Touch'
import {
  lazy,
  Suspense,
  useLayoutEffect,
  useRef,
  useState,
  type Dispatch,
  type ReactNode,
  type SetStateAction,
  type TouchEvent,
} from 'react'
import type { Shape } from '../shared/client'
import { Told } from '../shared/Told'
import { onTheClock } from '../shared/when'
import { Drawing } from './Drawing'
import { Lines } from './Lines'
import { Picks } from './Picks'
import { Photo, Picture } from './Pictures'
import { useCame, type How } from './scanner'
import { mayCamera } from './signals'
import type { useHandset } from './useHandset'
import './handset.css'

type Question = Shape['Question']
/** Reading barcodes in pictures is large, and loaded when it is asked for. */
const Camera = lazy(() => import('./Camera'))

/** The scanner: one question, one scan box, the reply in words. ``old``: seconds out of touch, null when in touch. */
export function Handset({
  hand,
  who,
  where = '',
  keepFocus = true,
  old = null,
  menuFoot,
  out,
  camera = false,
}: {
  hand: ReturnType<typeof useHandset>
  who: string
  /** The site and floor it works on. */
  where?: string
  keepFocus?: boolean
  old?: number | null
  /** What stands below the menu: where it begins, other floors, the way out. */
  menuFoot?: ReactNode
  /** Signs out, from wherever one is. */
  out?: () => void
  /** May its own camera scan? */
  camera?: boolean
}) {
  const { view, reply, act, waiting, outOfTouch } = hand
  const question = view?.question ?? null
  // what is being typed, or comes from a scanner, outlives the question that changes under it
  const entry = useState('')
  const came = useCame()
  useScannedMeanwhile(question === null && waiting && keepFocus, question !== null, came, entry[1], act)
  const look = useState(false)
  return (
    <section className={`hs${outOfTouch ? ' out' : ''}`} aria-label="Handset" data-entry={view?.seq}>
      <div className="hs-top">
        <span>{question ? question.flow : 'Menu'}</span>
        <span>
          {who}
          {out && (
            <button className="hs-link out" onClick={out}>
              Sign out
            </button>
          )}
        </span>
      </div>
      <div className="hs-top">
        <span>
          {where}
          {where && question?.turns ? ', ' : ''}
          {question?.turns ? `${question.turn} of ${question.turns}` : ''}
        </span>
        <Touch waits={outOfTouch} sends={waiting} old={old} />
      </div>
      {!view ? (
        <div className="hs-body" aria-busy="true" />
      ) : question ? (
        <Asked
          key={`${question.dialogue} ${question.step}`}
          question={question}
          hand={hand}
          keepFocus={keepFocus}
          entry={entry}
          came={came}
          camera={camera}
          look={look}
        />
      ) : (
        <>
          <div className="hs-body">
            <h1>What do you do?</h1>
            {groups(view.menu).map(([name, flows]) => (
              <div key={name} className="hs-picks" role="group" aria-label={name || 'Flows'}>
                {name && <h2>{name}</h2>}
                {flows.map((flow) => (
                  <button
                    key={flow.id}
                    className="hs-pick"
                    aria-describedby={flow.open_work ? `work-${flow.id}` : undefined}
                    onClick={() => act({ kind: 'open_flow', flow: flow.id })}
                  >
                    {flow.name}
                    {flow.open_work && (
                      <span id={`work-${flow.id}`} aria-hidden>
                        {flow.open_work === '0' ? 'nothing waits' : `${flow.open_work} to do`}
                      </span>
                    )}
                  </button>
                ))}
              </div>
            ))}
            {view.menu.length === 0 && (
              <p className="hs-note">No flow is on a menu of your crews. The analyst puts one there, under Scanner.</p>
            )}
          </div>
          <Reply reply={reply} />
          {menuFoot}
        </>
      )}
    </section>
  )
}

/** From the press that opens a flow until its first question is there no box is: what is scanned meanwhile waits for it. */
function useScannedMeanwhile(
  opening: boolean,
  asked: boolean,
  came: ReturnType<typeof useCame>,
  setText: (text: string) => void,
  act: ReturnType<typeof useHandset>['act'],
) {
  const gathered = useRef('')
  useLayoutEffect(() => {
    if (!opening) {
      if (gathered.current !== '' && !asked) {
        setText('') // the flow did not open: half a code is for no question
        came.became('', gathered.current)
      }
      gathered.current = ''
      return
    }
    const on = (e: KeyboardEvent) => {
      if (e.ctrlKey || e.metaKey || e.altKey) return
      if (e.target instanceof Element && e.target.closest('input, textarea, select')) return // on a desk others are open
      const ends = (e.key === 'Enter' || e.key === 'Tab') && gathered.current !== ''
      if (e.key.length !== 1 && !ends) return
      e.preventDefault() // the button that was pressed still has the focus
      came.onKeyDown(e)
      const text = ends ? '' : gathered.current + e.key
      if (ends) {
        const taken = came.taken(gathered.current)
        act({ kind: 'answer', dialogue: '', scan: { text: taken.text, how: taken.how }, step: null })
      }
      gathered.current = text
      setText(text)
    }
    window.addEventListener('keydown', on)
    return () => window.removeEventListener('keydown', on)
  }, [opening, asked, came, setText, act])
}

/** The flows of a menu under their headings. */
function groups(menu: Shape['MenuFlow'][]): [string, Shape['MenuFlow'][]][] {
  const names = [...new Set(menu.map((flow) => flow.group))]
  return names.map((name) => [name, menu.filter((flow) => flow.group === name)])
}

/** When a list was loaded, and anew. It follows the floor by itself; out of touch this says how old it is. */
function Loaded({ hand }: { hand: ReturnType<typeof useHandset> }) {
  if (!hand.loaded) return null
  return (
    <div className="hs-filter">
      <span>loaded at {onTheClock(hand.loaded)}</span>
      <button className="hs-link" onClick={hand.reload}>
        load anew
      </button>
    </div>
  )
}

const PULLED = 70
/** Pulling a list down beyond its top loads it anew. */
function usePull(reload: () => void) {
  const from = useRef<number | null>(null)
  const [pulled, setPulled] = useState(0)
  return {
    pulled: pulled >= PULLED,
    touch: {
      onTouchStart: (e: TouchEvent<HTMLElement>) => {
        from.current = e.currentTarget.scrollTop <= 0 ? (e.touches[0]?.clientY ?? null) : null
      },
      onTouchMove: (e: TouchEvent<HTMLElement>) => {
        if (from.current !== null) setPulled(Math.max(0, (e.touches[0]?.clientY ?? 0) - from.current))
      },
      onTouchEnd: () => {
        if (pulled >= PULLED) reload()
        from.current = null
        setPulled(0)
      },
    },
  }
}

/** Buttons that stand in sight beside the one that stands out; the others are a press away. */
const NEAR: string[] = [
  'nothing_seen',
  'all_pieces',
  'none_there',
  'nothing_else',
  'as_labelled',
  'that_is_all',
  'yes',
  'back',
]

function Asked({
  question,
  hand,
  keepFocus,
  entry: [text, setText],
  came,
  camera,
  look: [seeing, see],
}: {
  question: Question
  hand: ReturnType<typeof useHandset>
  keepFocus: boolean
  entry: [string, Dispatch<SetStateAction<string>>]
  came: ReturnType<typeof useCame>
  camera: boolean
  look: [boolean, (so: boolean) => void]
}) {
  const { reply, act } = hand
  const place = `${hand.view?.world ?? ''} ${hand.view?.device ?? ''}`
  const pull = usePull(hand.reload)
  const [more, setMore] = useState(false)
  const [list, setList] = useState(false)
  const box = useRef<HTMLInputElement>(null)
  useLayoutEffect(() => {
    if (keepFocus) box.current?.focus({ preventScroll: true })
  }, [keepFocus, list, seeing])
  const answer = (value: string, how: How) => {
    if (value.trim())
      act({ kind: 'answer', dialogue: question.dialogue, scan: { text: value, how }, step: question.step })
    setText('')
  }
  const ended = () => {
    const taken = came.taken(text)
    answer(taken.text, taken.how)
  }
  const press = (action: Question['buttons'][number]['action']) => {
    setText('')
    if (action === 'back') act({ kind: 'step_back', dialogue: question.dialogue, step: question.step })
    else if (action === 'leave') act({ kind: 'leave_flow', dialogue: question.dialogue })
    else act({ kind: 'press', dialogue: question.dialogue, action, step: question.step, line: null, count: null })
  }
  if (list) return <Lines question={question} act={act} close={() => setList(false)} />
  // of a doubt the safe answer is the one that stands out, whoever presses without reading
  const first = question.buttons.some((b) => b.action === 'no')
    ? ['no']
    : ['confirm', 'finish', 'finish_return', 'new_plate', 'no_remark', 'it_is_so']
  const main = question.buttons.filter((b) => first.includes(b.action))
  const rest = question.buttons.filter((b) => !main.includes(b))
  const near = rest.filter((b) => NEAR.includes(b.action))
  const far = rest.filter((b) => !near.includes(b))
  return (
    <>
      <div
        className="hs-body"
        role="region"
        aria-label="The question"
        tabIndex={0}
        {...(question.picks.length > 0 ? pull.touch : {})}
      >
        {pull.pulled && <p className="hs-note">Let go to load anew</p>}
        <h1 className={question.title.length > 44 ? 'long' : ''}>
          <Told text={question.title} />
        </h1>
        {(question.expect || question.note || question.shape) && (
          <div className="hs-card">
            <Drawing shape={question.shape} />
            <div>
              {question.expect && <div className="hs-expect">{question.expect}</div>}
              {question.unit && <div className="hs-expect">{question.unit}</div>}
              {question.note && <div className="hs-note">{question.note}</div>}
              {question.must_scan && <div className="hs-note">must be scanned</div>}
            </div>
          </div>
        )}
        {question.picture && <Picture key={question.picture} name={question.picture} />}
        {question.photo && (
          <Photo taken={(name) => answer(name, 'tapped')} again={question.picture.startsWith('photo-')} />
        )}
        {question.facts.length > 0 && (
          <div className="hs-facts">
            {question.facts.map((fact) => (
              <div key={fact}>
                <Told text={fact} />
              </div>
            ))}
          </div>
        )}
        {question.picks.length > 0 && (
          <>
            <Picks picks={question.picks} place={`listed ${place} ${question.asks}`} tap={(v) => answer(v, 'tapped')} />
            <Loaded hand={hand} />
          </>
        )}
        {question.keys === 'number' && (
          <div className="hs-pad" aria-label="Number pad">
            {['1', '2', '3', '4', '5', '6', '7', '8', '9', '.', '0', '⌫'].map((key) => (
              <button
                key={key}
                aria-label={key === '⌫' ? 'delete' : key}
                onClick={() => setText(key === '⌫' ? text.slice(0, -1) : text + key)}
              >
                {key}
              </button>
            ))}
          </div>
        )}
      </div>
      <Reply reply={reply} />
      {seeing && question.keys !== 'none' && (
        <Suspense fallback={<p className="hs-note">The camera is coming.</p>}>
          <Camera found={(code) => answer(code, 'scanned')} close={() => see(false)} />
        </Suspense>
      )}
      {question.keys !== 'none' && (
        <form
          className="hs-scan"
          onSubmit={(e) => {
            e.preventDefault()
            ended()
          }}
        >
          <input
            ref={box}
            value={text}
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
            aria-label="Scan or type"
            placeholder={question.proposal ? `${question.proposal} proposed` : 'scan or type'}
            autoComplete="off"
            inputMode={question.keys === 'number' ? 'decimal' : 'text'}
          />
          {camera && !seeing && mayCamera() && (
            <button className="hs-btn plain" type="button" onClick={() => see(true)}>
              Camera
            </button>
          )}
          <button className="hs-btn plain" type="submit" aria-label="Enter">
            ↵
          </button>
        </form>
      )}
      <div className="hs-row">
        {main.map((b) => (
          <button key={b.action} className={`hs-btn${b === main[0] ? ' main' : ''}`} onClick={() => press(b.action)}>
            {b.label}
          </button>
        ))}
        {near.map((b) => (
          <button key={b.action} className="hs-btn" onClick={() => press(b.action)}>
            {b.label}
          </button>
        ))}
        {question.so_far.length > 0 && (
          <button className="hs-btn" onClick={() => setList(true)}>
            {question.list_name}: {question.so_far.length + question.earlier}
          </button>
        )}
        {more || main.length + near.length === 0 ? (
          far.map((b) => (
            <button key={b.action} className="hs-btn" onClick={() => press(b.action)}>
              {b.label}
            </button>
          ))
        ) : (
          <button className="hs-btn" aria-expanded={false} onClick={() => setMore(true)}>
            More
          </button>
        )}
      </div>
    </>
  )
}

function Reply({ reply }: { reply: { good: boolean | null; says: string } | null }) {
  return (
    <div
      className={`hs-reply${reply ? (reply.good === null ? ' kept' : reply.good ? ' good' : ' bad') : ''}`}
      role="status"
    >
      {reply && (
        <>
          <span className="mark">{reply.good === null ? '… waiting' : reply.good ? '✓ done' : '✕ refused'}</span>
          <Told text={reply.says} />
        </>
      )}
    </div>
  )
}
