import Button from '@mui/material/Button'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { Sheet } from '../parts/Sheet'
import { Entry, Pick } from '../parts/controls'

type Act = Shape['CommandBody']['act']
type Task = Shape['Changes']['tasks'][number]

/** What the office may do about a task, as the core offers it: who takes it, when, or that nobody does. */
export function TaskActs({ task, offered, act }: { task: Task; offered: Shape['Offered']; act: (act: Act) => void }) {
  const [open, setOpen] = useState(false)
  const [why, setWhy] = useState('')
  const people = useQuery({ queryKey: ['people'], queryFn: () => got(client.GET('/api/people')), enabled: open })
  const hands = people.data?.people.filter((p) => p.crews.includes(task.crew ?? '')) ?? []
  const done = (what: Act) => {
    act(what)
    setOpen(false)
    setWhy('')
  }
  const named = { task: task.number }
  const given = why.trim().length >= 3
  return (
    <>
      <button className="link" onClick={() => setOpen(true)} aria-label={`Change task ${task.number}`}>
        Change
      </button>
      <Sheet open={open} onClose={() => setOpen(false)} label={`Task ${task.number}`} fullWidth maxWidth="sm">
        <div style={{ padding: 20 }}>
          <h2 style={{ marginTop: 0 }}>
            Task <span className="code">{task.number}</span>
          </h2>
          <p className="quiet">
            <Told text={task.says} />
          </p>
          {offered.set_down && (
            <div className="form">
              <span style={{ flex: 1 }}>
                It is carried. Put back, it stands in {task.from_bin} and somebody else may take it.
              </span>
              <Button onClick={() => done({ kind: 'set_down', ...named })}>Have it put back</Button>
            </div>
          )}
          {(offered.hold || offered.let_go) && (
            <>
              {offered.let_go && (
                <div className="form">
                  <span style={{ flex: 1 }}>Nobody may take it: {task.held}.</span>
                  <Button onClick={() => done({ kind: 'let_task_go', ...named })}>Let it go</Button>
                </div>
              )}
              <div className="form">
                <label style={{ flex: 1 }} htmlFor="task-priority">
                  Priority; the highest comes first
                </label>
                <Pick
                  id="task-priority"
                  value={task.priority ?? 0}
                  onChange={(e) => done({ kind: 'raise_task', ...named, priority: Number(e.target.value) })}
                >
                  {offered.priorities.map((n) => (
                    <option key={n} value={n}>
                      {n}
                    </option>
                  ))}
                </Pick>
              </div>
              <div className="form">
                <label style={{ flex: 1 }} htmlFor="task-crew">
                  Crew that does it
                </label>
                <Pick
                  id="task-crew"
                  value={task.crew ?? ''}
                  onChange={(e) => done({ kind: 'reassign_task', ...named, crew: e.target.value, person: null })}
                >
                  {offered.crews.map((c) => (
                    <option key={c.id} value={c.id}>
                      {c.name}
                    </option>
                  ))}
                </Pick>
              </div>
              <div className="form">
                <label style={{ flex: 1 }} htmlFor="task-person">
                  Who of it
                </label>
                <Pick
                  id="task-person"
                  value={task.whose ?? ''}
                  onChange={(e) =>
                    done({ kind: 'reassign_task', ...named, crew: task.crew ?? '', person: e.target.value || null })
                  }
                >
                  <option value="">anybody</option>
                  {hands.map((p) => (
                    <option key={p.id} value={p.id}>
                      {p.name} alone
                    </option>
                  ))}
                </Pick>
              </div>
              <div className="form">
                <Entry
                  aria-label="Reason"
                  placeholder="why; people read it"
                  style={{ flex: 1 }}
                  value={why}
                  maxLength={120}
                  onChange={(e) => setWhy(e.target.value)}
                />
                {offered.hold && (
                  <Button disabled={!given} onClick={() => done({ kind: 'hold_task', ...named, why })}>
                    Hold
                  </Button>
                )}
                {offered.cancel && (
                  <Button disabled={!given} onClick={() => done({ kind: 'cancel_task', ...named, why })}>
                    Cancel the task
                  </Button>
                )}
              </div>
            </>
          )}
        </div>
      </Sheet>
    </>
  )
}
