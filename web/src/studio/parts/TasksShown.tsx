import { Link } from 'react-router'
import type { Shape } from '../../shared/client'
import { Told } from '../../shared/Told'

/** Tasks as they would be made: for whom, of what, from where to where, by which recipe, and why by that. */
export function TasksShown({ preview }: { preview: Shape['Preview'] }) {
  const { tasks, left, inspections, short } = preview
  const crews = [...new Set(tasks.map((t) => t.crew_name))]
  const metres = tasks.reduce((sum, t) => sum + (t.walk_mm ?? 0), 0)
  return (
    <div className="tasks-shown">
      {(tasks.length > 0 || inspections.length === 0) && (
        <p>
          <b>{tasks.length === 1 ? '1 task' : `${tasks.length} tasks`}</b>
          {crews.length > 0 && ` for ${crews.join(' and ')}`}
          {metres > 0 && <span className="quiet">, {Math.round(metres / 1000).toLocaleString('en')} m to walk</span>}
        </p>
      )}
      <ol className="tasks">
        {tasks.map((task, n) => (
          <li key={n}>
            <header>
              <b>{task.crew_name}</b>
              {task.parts > 1 && ` · part ${task.part} of ${task.parts}`}
              {task.priority > 0 && ` · priority ${task.priority}`}
              {task.walk_mm !== null && <span className="quiet"> · {Math.round(task.walk_mm / 1000)} m</span>}
            </header>
            {task.held && <div className="mark doubt">▲ Held: {task.held}</div>}
            <ul>
              {task.shares.slice(0, 8).map((share, m) => (
                <li key={m}>
                  <Told text={share.what} /> <span className="code">{share.from_bin}</span> →{' '}
                  {share.to ? <span className="code">{share.to}</span> : 'a bin the worker chooses'}
                  {share.rule !== null && <span className="quiet"> rule {share.rule}</span>}
                </li>
              ))}
              {task.shares.length > 8 && <li className="quiet">and {task.shares.length - 8} more</li>}
            </ul>
            <div className="quiet why">
              {task.looks.map((look) => (
                <div key={look.recipe}>
                  {look.makes ? '✓' : '–'} <Link to={`/recipes/${look.recipe}`}>Recipe {look.number}</Link>: {look.says}
                </div>
              ))}
            </div>
          </li>
        ))}
      </ol>
      {inspections.map((what) => (
        <p key={what}>
          <b>1 inspection</b>: <Told text={what} />
        </p>
      ))}
      {short.map((s) => (
        <p key={s} className="mark doubt" style={{ whiteSpace: 'normal' }}>
          ▲ <Told text={s} />
        </p>
      ))}
      {left.map((l, n) => (
        <p key={n} className="mark doubt" style={{ whiteSpace: 'normal' }}>
          ▲ <Told text={l.what} /> stays in <span className="code">{l.at}</span>: {l.why}
        </p>
      ))}
    </div>
  )
}
