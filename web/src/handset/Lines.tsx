import { useState } from 'react'
import type { Shape } from '../shared/client'
import { Told } from '../shared/Told'
import type { Act } from './useHandset'

type OfLine = Shape['Question']['of_line'][number]

/** What is on the plate or in the carton so far, with what may be done with each line; or what was picked. */
export function Lines({
  question,
  act,
  close,
}: {
  question: Shape['Question']
  act: (act: Act) => void
  close: () => void
}) {
  const [counting, setCounting] = useState<{ line: number; by: OfLine } | null>(null)
  const [count, setCount] = useState('')
  const press = (by: OfLine, line: number) => {
    act({
      kind: 'press',
      dialogue: question.dialogue,
      action: by.action,
      line,
      count: by.counts ? count : null,
      step: question.step,
    })
    setCounting(null)
  }
  return (
    <>
      <div className="hs-body">
        <h1>
          <Told text={question.list_title} />
        </h1>
        {question.earlier > 0 && <p className="hs-note">The latest; {question.earlier} came before.</p>}
        <ul className="hs-lines">
          {question.so_far.map((line) => (
            <li key={line.line}>
              <div>{line.label}</div>
              <div className="hs-note">{[line.told, line.rest].filter(Boolean).join(', ')}</div>
              {counting?.line === line.line ? (
                <form
                  className="hs-scan"
                  onSubmit={(e) => {
                    e.preventDefault()
                    press(counting.by, line.line)
                  }}
                >
                  <input
                    autoFocus
                    value={count}
                    onChange={(e) => setCount(e.target.value)}
                    aria-label={`How many ${line.unit}`}
                    inputMode="decimal"
                  />
                  <button className="hs-btn plain" type="submit">
                    {counting.by.label}
                  </button>
                </form>
              ) : (
                question.of_line.length > 0 && (
                  <div className="hs-row">
                    {question.of_line.map((by) => (
                      <button
                        key={by.action}
                        className="hs-btn"
                        onClick={() => {
                          if (!by.counts) {
                            press(by, line.line)
                            return
                          }
                          setCounting({ line: line.line, by })
                          setCount(line.count)
                        }}
                      >
                        {by.label}
                      </button>
                    ))}
                  </div>
                )
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
