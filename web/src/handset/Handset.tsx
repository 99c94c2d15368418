import { useEffect, useRef, useState, type ReactNode } from 'react'
import type { Shape } from '../shared/client'
import { ago } from '../shared/live'
import { Told } from '../shared/Told'
import { Drawing } from './Drawing'
import { Lines } from './Lines'
import type { useHandset } from './useHandset'
import './handset.css'

type Question = Shape['Question']
type How = 'scanned' | 'typed' | 'tapped'

/** The scanner: one question, one scan box, the reply in words. ``old``: seconds out of touch, null when in touch. */
export function Handset({
  hand,
  who,
  where = '',
  keepFocus = true,
  old = null,
  menuFoot,
}: {
  hand: ReturnType<typeof useHandset>
  who: string
  /** The site and floor it works on. */
  where?: string
  keepFocus?: boolean
  old?: number | null
  /** What stands below the menu: where it begins, other floors, the way out. */
  menuFoot?: ReactNode
}) {
  const { view, reply, act, waiting, outOfTouch } = hand
  const question = view?.question ?? null
  return (
    <section className={`hs${outOfTouch ? ' out' : ''}`} aria-label="Handset">
      <div className="hs-top">
        <span>{question ? question.flow : 'Menu'}</span>
        <span>{who}</span>
      </div>
      <div className="hs-top">
        <span>
          {where}
          {where && question?.turns ? ', ' : ''}
          {question?.turns ? `${question.turn} of ${question.turns}` : ''}
        </span>
        <span>
          {outOfTouch
            ? '1 scan waiting'
            : waiting
              ? 'sending'
              : old === null
                ? 'in touch'
                : `out of touch: ${ago(old)} old`}
        </span>
      </div>
      {!view ? (
        <div className="hs-body" aria-busy="true" />
      ) : question ? (
        <Asked
          key={`${question.dialogue} ${question.step}`}
          question={question}
          reply={reply}
          act={act}
          keepFocus={keepFocus}
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

/** The flows of a menu under their headings. */
function groups(menu: Shape['MenuFlow'][]): [string, Shape['MenuFlow'][]][] {
  const names = [...new Set(menu.map((flow) => flow.group))]
  return names.map((name) => [name, menu.filter((flow) => flow.group === name)])
}

function Asked({
  question,
  reply,
  act,
  keepFocus,
}: {
  question: Question
  reply: { good: boolean | null; says: string } | null
  act: ReturnType<typeof useHandset>['act']
  keepFocus: boolean
}) {
  const [text, setText] = useState('')
  const [more, setMore] = useState(false)
  const [list, setList] = useState(false)
  const box = useRef<HTMLInputElement>(null)
  useEffect(() => {
    if (keepFocus) box.current?.focus({ preventScroll: true })
  }, [keepFocus, list])
  const answer = (value: string, how: How) => {
    if (value.trim())
      act({ kind: 'answer', dialogue: question.dialogue, scan: { text: value, how }, step: question.step })
    setText('')
  }
  // A wedge scanner types fast and ends with Enter, as a person does more slowly: the pace tells which it was.
  const began = useRef(0)
  const typed = (value: string, at: number) => {
    if (!text) began.current = at
    setText(value)
  }
  const pace = (at: number): How => (text.length >= 4 && (at - began.current) / text.length < 25 ? 'scanned' : 'typed')
  const press = (action: Question['buttons'][number]['action']) => {
    if (action === 'back') act({ kind: 'step_back', dialogue: question.dialogue, step: question.step })
    else if (action === 'leave') act({ kind: 'leave_flow', dialogue: question.dialogue })
    else act({ kind: 'press', dialogue: question.dialogue, action, step: question.step, line: null, count: null })
  }
  if (list) return <Lines question={question} act={act} close={() => setList(false)} />
  // of a doubt the safe answer is the one that stands out, whoever presses without reading
  const first = question.buttons.some((b) => b.action === 'no')
    ? ['no']
    : ['confirm', 'finish', 'new_plate', 'no_remark']
  const main = question.buttons.filter((b) => first.includes(b.action))
  const rest = question.buttons.filter((b) => !main.includes(b))
  const near = rest.filter((b) => b.action === 'back' || b.action === 'yes')
  const far = rest.filter((b) => !near.includes(b))
  return (
    <>
      <div className="hs-body">
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
          <div className="hs-picks">
            {question.picks.map((pick) => (
              <button key={pick.value} className="hs-pick" onClick={() => answer(pick.value, 'tapped')}>
                <b>{pick.label}</b>
                <span>
                  <Told text={pick.note} />
                </span>
              </button>
            ))}
          </div>
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
      {question.keys !== 'none' && (
        <form
          className="hs-scan"
          onSubmit={(e) => {
            e.preventDefault()
            answer(text, pace(e.timeStamp))
          }}
        >
          <input
            ref={box}
            value={text}
            onChange={(e) => typed(e.target.value, e.timeStamp)}
            aria-label="Scan or type"
            placeholder={question.proposal ? `${question.proposal} proposed` : 'scan or type'}
            autoComplete="off"
            inputMode={question.keys === 'number' ? 'decimal' : 'text'}
          />
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
            On it: {question.so_far.length}
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
