import { type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { useOpenGoods } from '../parts/data'
import { type Verdict } from '../parts/mapScene'
import { SiteMap } from '../parts/SiteMap'
import { Why } from '../parts/Trail'

/** All open lines, or every item, with the rule that decides each: put one after another, so that bins fill up. */
export function OpenGoods({
  purpose,
  takes,
  world,
  look,
}: {
  purpose: string
  takes: boolean
  world: string
  look: (line: Shape['OpenLine']) => void
}) {
  const open = useOpenGoods(purpose, world)
  if (open.error) return <p className="mark fails">✕ {open.error.message}</p>
  if (!open.data) return <div className="skeleton" aria-busy="true" />
  return (
    <>
      <p className="quiet" style={{ margin: '4px 0 8px' }}>
        {open.data.lines.length} {takes ? 'items, one unit each' : 'open lines, each on a pallet, one after another'}:{' '}
        {open.data.undecided ? (
          <b className="mark doubt">▲ {open.data.undecided} find no bin for all of it</b>
        ) : (
          <b className="mark holds">✓ all have one</b>
        )}
      </p>
      <table className="plain">
        <thead>
          <tr>
            <th>{takes ? 'Item' : 'Line'}</th>
            <th>rule</th>
            <th>bin</th>
          </tr>
        </thead>
        <tbody>
          {open.data.lines.map((line) => (
            <tr key={`${line.order} ${line.line} ${line.item}`}>
              <td>
                <button className="link" onClick={() => look(line)}>
                  {line.told} {line.name}
                </button>
                {line.order && <div className="quiet">{`${line.order} line ${line.line}`}</div>}
              </td>
              <td className="num">{line.number ?? '–'}</td>
              <td>
                {line.shares.map((s) => (
                  <div key={s.bin}>
                    <span className="code">{s.bin}</span>{' '}
                    {line.shares.length > 1 && <span className="quiet">{s.told}</span>}
                  </div>
                ))}
                {line.rest && <span className="mark doubt">▲ {line.shares.length ? `${line.rest} left` : 'none'}</span>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  )
}

export function Answer({
  answer,
  map,
  takes,
}: {
  answer: Shape['BenchAnswer']
  map?: Shape['SiteMap']
  takes: boolean
}) {
  const why = answer.why
  const bin = why.bin
  return (
    <div aria-live="polite">
      <div className={`answer${bin ? '' : ' none'}`} data-testid="bench-answer">
        {bin ? (
          <>
            <b>{bin}</b>
            <span className="quiet">
              by rule {why.numbers[why.rule ?? '']}
              {why.explanation.metres !== null && `, ${why.explanation.metres} m from ${answer.from_bin}`}
            </span>
          </>
        ) : (
          <span>
            <span className="mark fails">■ </span>
            <Told text={answer.says} />
          </span>
        )}
      </div>
      {(answer.shares.length > 1 || (answer.shares.length > 0 && answer.rest)) && (
        <ul className="shares">
          {answer.shares.map((s) => (
            <li key={s.bin}>
              <span className="code">{s.bin}</span> {s.told}
            </li>
          ))}
          {answer.rest && <li className="mark doubt">▲ {answer.rest} left over</li>}
        </ul>
      )}
      <p className="quiet" style={{ margin: '6px 2px' }}>
        {answer.told}, {answer.weight_kg} kg{takes ? '' : `, ${answer.height_mm} mm high`}
      </p>
      {map && <Looked map={map} why={why} from={answer.from_bin} />}
      <Why why={why} />
    </div>
  )
}

/** The bins a question looked at, from above: the one chosen, those that fit, those turned down, the way to it. */
function Looked({ map, why, from }: { map: Shape['SiteMap']; why: Shape['Why']; from: string }) {
  const verdicts: Record<string, Verdict> = {}
  for (const look of why.explanation.looks)
    for (const c of look.bins)
      if (verdicts[c.bin] !== 'fits') verdicts[c.bin] = c.turned_down === null ? 'fits' : 'down'
  for (const a of why.explanation.allocations ?? []) verdicts[a.bin] = 'chosen'
  const codes = Object.keys(verdicts)
  if (codes.length === 0) return null
  const fits = Object.values(verdicts).filter((v) => v !== 'down').length
  return (
    <>
      <div className="mapbox small">
        <SiteMap
          map={map}
          level={null}
          by="verdict"
          picked={NOTHING}
          pick={() => undefined}
          verdicts={verdicts}
          way={from && why.bin ? [from, why.bin] : undefined}
          focus={from ? [...codes, from] : codes}
          says={`${codes.length} bins looked at, ${fits} fit${why.bin ? `, ${why.bin} chosen` : ''}`}
        />
      </div>
      <div className="legend">
        <span>
          <Sample fill="var(--moss)" />
          chosen
        </span>
        <span>
          <Sample fill="var(--surface)" line="var(--moss)" />
          fits
        </span>
        <span>
          <Sample fill="var(--line)" />
          turned down
        </span>
        <span>✕ blocked</span>
        {from && <span>◆ {from}, where it comes from</span>}
      </div>
    </>
  )
}

const NOTHING = new Set<string>()

function Sample({ fill, line }: { fill: string; line?: string }) {
  return (
    <svg viewBox="0 0 10 10" aria-hidden="true">
      <rect x="1" y="1" width="8" height="8" fill={fill} stroke={line} strokeWidth="1.6" />
    </svg>
  )
}
