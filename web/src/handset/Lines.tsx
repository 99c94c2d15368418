import { useState } from 'react'
import type { Shape } from '../shared/client'
import type { Act } from './useHandset'

/** What is on the plate so far, where each line can be changed or taken off; or what was picked. */
export function Lines({
  question,
  act,
  close,
}: {
  question: Shape['Question']
  act: (act: Act) => void
  close: () => void
}) {
  const [editing, setEditing] = useState<number | null>(null)
  const [count, setCount] = useState('')
  const rest = (left: string) =>
    question.may_change ? left || '✓ all of its line is here' : left ? `${left} left there` : '✓ all of it'
  const press = (action: 'change_line' | 'remove_line', line: number) => {
    act({
      kind: 'press',
      dialogue: question.dialogue,
      action,
      line,
      count: action === 'change_line' ? count : null,
      step: question.step,
    })
    setEditing(null)
  }
  return (
    <>
      <div className="hs-body">
        <h1>{question.may_change ? `On plate ${question.plate}` : 'Picked so far'}</h1>
        {question.earlier > 0 && <p className="hs-note">The latest; {question.earlier} stops came before.</p>}
        <ul className="hs-lines">
          {question.so_far.map((line) => (
            <li key={line.line}>
              <div>{line.label}</div>
              <div className="hs-note">
                {line.told}, {rest(line.rest)}
              </div>
              {!question.may_change ? null : editing === line.line ? (
                <form
                  className="hs-scan"
                  onSubmit={(e) => {
                    e.preventDefault()
                    press('change_line', line.line)
                  }}
                >
                  <input
                    autoFocus
                    value={count}
                    onChange={(e) => setCount(e.target.value)}
                    aria-label={`How many ${line.unit}`}
                    inputMode="decimal"
                  />
                  <button className="hs-btn plain" type="submit" aria-label="Enter">
                    ↵
                  </button>
                </form>
              ) : (
                <div className="hs-row">
                  <button
                    className="hs-btn"
                    onClick={() => {
                      setEditing(line.line)
                      setCount(line.count)
                    }}
                  >
                    Change
                  </button>
                  <button className="hs-btn" onClick={() => press('remove_line', line.line)}>
                    Take off
                  </button>
                </div>
              )}
            </li>
          ))}
        </ul>
      </div>
      <div className="hs-row">
        <button className="hs-btn main" onClick={close}>
          Back to the question
        </button>
      </div>
    </>
  )
}
