import Tooltip from '@mui/material/Tooltip'
import { Link } from 'react-router'
import { Told } from '../../shared/Told'
import type { Shape } from '../../shared/client'

const MARK: Record<string, string> = {
  chosen: '✓',
  part: '◐',
  overflow: '↷',
  replenish: '▲',
  asks: '?',
  no_bin: '✕',
  does_not_apply: '–',
  off: '○',
}
const WORD: Record<string, string> = {
  chosen: 'chose',
  part: 'part',
  overflow: 'overflow',
  replenish: 'replenish',
  asks: 'asks',
  no_bin: 'no bin',
  does_not_apply: 'does not apply',
  off: 'off',
}

/** The why trail as it was recorded: one look everywhere. */
export function Trail({ lines, back }: { lines: Shape['LineView'][]; back?: string }) {
  return (
    <ol className="trail">
      {lines.map((line, n) => (
        <li key={n} className={line.outcome}>
          <span className="mark">{MARK[line.outcome] ?? '·'}</span>
          <span>
            <Tooltip title={line.sentence} describeChild>
              <Link to={`/bin-rules/${line.rule}${back ?? ''}`}>Rule {line.number ?? line.rule}</Link>
            </Tooltip>{' '}
            {line.outcome === 'chosen' || line.outcome === 'part' ? '' : `${WORD[line.outcome] ?? ''}: `}
            <Told text={line.says} />
          </span>
        </li>
      ))}
    </ol>
  )
}

/** In a trail, what a step itself says of where it happens, instead of the rules. */
const STEP = 'step'

/** The why trail with the counts behind it. */
export function Why({ why, back }: { why: Shape['Why']; back?: string }) {
  const asked = why.explanation.looks.filter((l) => l.outcome !== null)
  const rest = why.explanation.looks.filter((l) => l.outcome === null)
  return (
    <ol className="trail">
      {asked.map((look, n) => (
        <li key={n} className={look.outcome ?? ''}>
          <span className="mark">{MARK[look.outcome ?? ''] ?? '·'}</span>
          <span>
            <Tooltip title={why.rules[look.rule]} describeChild>
              {look.rule === STEP ? (
                <Link to="/steps">The step's own place</Link>
              ) : (
                <Link to={`/bin-rules/${look.rule}${back ?? ''}`}>Rule {why.numbers[look.rule]}</Link>
              )}
            </Tooltip>{' '}
            <Told text={look.says} />
          </span>
        </li>
      ))}
      {rest.length > 0 && (
        <li>
          <span className="mark">·</span>
          <span>
            {rest.length === 1 ? 'Rule' : 'Rules'} {rest.map((l) => why.numbers[l.rule]).join(', ')} not asked
          </span>
        </li>
      )}
    </ol>
  )
}
