import { createContext, lazy, memo, Suspense, useContext, useEffect, useRef, useState } from 'react'
import { Link } from 'react-router'
import type { Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import type { Edit } from './data'
import { Acts } from './Acts'
import { Adding } from './Adding'
import { Notes } from './Notes'
import { Skeleton } from './Skeleton'
import { Sortable, SortableRow } from './Sortable'
import { Words } from './Words'

const StationMap = lazy(() => import('../rules/StationMap'))

type Section = Shape['Section']
type Row = Shape['Row']

/** What every row of a chapter needs: how an edit is made, what was computed of it, which one is meant by the address. */
export const Page = createContext<{
  put: (edits: Edit[], told: string, looked?: boolean) => void
  mayEdit: boolean
  here: string
  facts: Map<string, Shape['Reached']>
  more: () => void
  mark: (id: string) => void
}>({
  put: () => undefined,
  mayEdit: false,
  here: '',
  facts: new Map(),
  more: () => undefined,
  mark: () => undefined,
})

/** Rows of one kind: sentences, cards, a table of words, or what holds. */
export function SectionView({ section, within }: { section: Section; within?: Row }) {
  const { put, mayEdit, here } = useContext(Page)
  const moved = (from: number, to: number) => {
    const row = section.rows[from]
    if (row) put([{ op: 'move', path: row.path, at: to }], movedTold(section.called, from, to))
  }
  return (
    <>
      {section.title && !within && <h2>{section.title}</h2>}
      {section.lead && <p className="quiet">{section.lead}</p>}
      {section.for_all && <ForAll says="This list holds for all sites." />}
      {section.widget === 'sentences' && (section.rows.length > 0 || within?.fold) && (
        <Sortable ids={section.rows.map((row) => row.id)} called={section.called} moved={moved}>
          <ol
            className={within ? (within.fold ? 'places' : 'places shy') : 'rules'}
            aria-label={within ? section.title || undefined : undefined}
          >
            {section.rows.map((row, n) => (
              <SentenceRow
                key={row.id}
                row={row}
                n={section.places[n] ?? n}
                called={section.called}
                ordered={section.ordered}
                drags={section.passed_over === 0}
                count={section.rows.length + section.more + section.passed_over}
                compact={!!within}
              />
            ))}
            {within?.fold && mayEdit && (
              <li className="more">
                {section.add.map((add) => (
                  <Adding key={add.says} add={add} put={put} />
                ))}
              </li>
            )}
          </ol>
        </Sortable>
      )}
      {section.more > 0 && <More key={section.rows.length} count={section.more} called={section.called} />}
      {section.widget === 'cards' && section.rows.map((row) => <CardRow key={row.id} row={row} />)}
      {section.matrix && <MatrixView matrix={section.matrix} />}
      {section.graph && (
        <Suspense fallback={<Skeleton />}>
          <StationMap graph={section.graph} here={here} />
        </Suspense>
      )}
      {section.widget === 'facts' && <FactsView facts={section.facts} />}
      {section.rows.length === 0 && section.passed_over > 0 && (
        <p className="empty">Nothing here reads like that: {section.passed_over} rows do not.</p>
      )}
      {section.empty && section.rows.length === 0 && !section.passed_over && <p className="empty">{section.empty}</p>}
      {mayEdit && !within?.fold && (section.add.length > 0 || section.acts.length > 0) && (
        <div className="form">
          {section.add.map((add) => (
            <Adding key={add.says} add={add} put={put} />
          ))}
          <Acts acts={section.acts} put={put} />
        </div>
      )}
    </>
  )
}

/** Stands where a long list goes on, and fetches more of it when it comes into sight, or at a click. */
function More({ count, called }: { count: number; called: string }) {
  const { more } = useContext(Page)
  const here = useRef<HTMLButtonElement>(null)
  useEffect(() => {
    if (!here.current) return
    const seen = new IntersectionObserver((at) => at.some((a) => a.isIntersecting) && more(), { rootMargin: '900px' })
    seen.observe(here.current)
    return () => seen.disconnect()
  })
  return (
    <button ref={here} className="link quiet" style={{ padding: '10px 8px' }} onClick={more}>
      {count === 1 ? `1 more ${called.toLowerCase()}` : `${count} more ${called.toLowerCase()}s`}
    </button>
  )
}

const movedTold = (called: string, from: number, to: number) =>
  `${called} ${from + 1} became ${called.toLowerCase()} ${to + 1}.`

type Place = { row: Row; n: number; called: string; ordered: boolean; drags: boolean; count: number; compact: boolean }

const SentenceRow = memo(function SentenceRow({ row, n, called, ordered, drags, count, compact }: Place) {
  const { put, mayEdit, here, facts } = useContext(Page)
  const [unfolded, setUnfolded] = useState(false)
  const move = (to: number) => {
    if (to < 0 || to >= count) return
    put([{ op: 'move', path: row.path, at: to }], movedTold(called, n, to))
  }
  const computed = row.off ? undefined : facts.get(row.path)
  const acts = mayEdit && (
    <>
      {ordered && count > 1 && (
        <>
          <button className="link" disabled={n === 0} onClick={() => move(n - 1)}>
            Up
          </button>
          <button className="link" disabled={n === count - 1} onClick={() => move(n + 1)}>
            Down
          </button>
        </>
      )}
      {row.fold && (
        <button className="link" aria-expanded={unfolded} onClick={() => setUnfolded(!unfolded)}>
          {row.fold}
        </button>
      )}
      <Acts acts={row.acts} put={put} />
    </>
  )
  return (
    <SortableRow
      id={row.id}
      n={n}
      called={called}
      on={mayEdit && ordered && drags && count > 1}
      className={compact ? undefined : `rule${row.off ? ' off' : ''}${here === row.id || unfolded ? ' here' : ''}`}
      tabIndex={compact ? 0 : undefined}
      onKeyDown={(e) => {
        if (!e.altKey || !mayEdit || !ordered) return
        if (e.key !== 'ArrowUp' && e.key !== 'ArrowDown') return
        e.stopPropagation()
        move(e.key === 'ArrowUp' ? n - 1 : n + 1)
      }}
    >
      <div>
        <Words
          parts={row.parts}
          edit={put}
          mayEdit={mayEdit}
          under={
            <>
              {computed && <span>{computed.says}</span>}
              {computed?.overruled && (
                <span className="finding doubt">
                  <b>▲</b> <Told text={computed.overruled} />
                </span>
              )}
              <Notes notes={row.notes} />
            </>
          }
          acts={acts}
        />
        {(!row.fold || unfolded) && row.lists.map((list) => <SectionView key={list.id} section={list} within={row} />)}
      </div>
    </SortableRow>
  )
})

function CardRow({ row }: { row: Row }) {
  const { put, mayEdit, here, mark } = useContext(Page)
  return (
    <section id={row.id} onPointerUp={() => mark(row.id)} className={`card${here === row.id ? ' here' : ''}`}>
      {row.name && (
        <h2>
          {row.name.text} {row.for_all && <ForAll />}
        </h2>
      )}
      {!row.name && row.for_all && <ForAll />}
      <div className="rule card-rule">
        <Words
          parts={row.parts}
          edit={put}
          mayEdit={mayEdit}
          name={row.name}
          under={<Notes notes={row.notes} />}
          acts={mayEdit && <Acts acts={row.acts} put={put} />}
        />
      </div>
      {row.lists.map((list) => (
        <SectionView key={list.id} section={list} within={row} />
      ))}
    </section>
  )
}

/** Marks what every site shares: a change of it is seen by the drafts of all of them. */
function ForAll({ says = 'for all sites' }: { says?: string }) {
  return (
    <Link className="for-all" to="/drafts#all-sites">
      {says}
    </Link>
  )
}

function MatrixView({ matrix }: { matrix: Shape['Matrix'] }) {
  const { put, mayEdit } = useContext(Page)
  return (
    <table className="plain">
      <thead>
        <tr>
          {matrix.columns.map((c) => (
            <th key={c}>{c}</th>
          ))}
        </tr>
      </thead>
      <tbody>
        {matrix.lines.map((line) => (
          <tr key={line.title}>
            <td>{line.title}</td>
            {line.cells.map((cell, n) => (
              <td key={cell.path}>
                <Words
                  parts={[cell]}
                  edit={put}
                  mayEdit={mayEdit}
                  label={`${line.title}, ${matrix.columns[n + 1] ?? ''}`}
                />
              </td>
            ))}
            <td className="quiet">{line.otherwise}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

/** Each level by a shape of its own; the word beside it says the same. */
const SIGN: Record<Shape['Fact']['level'], string> = { own: '◆', site: '▲', general: '●', built_in: '○' }

function FactsView({ facts }: { facts: Shape['Fact'][] }) {
  const one = new Set(facts.map((f) => f.setting)).size === 1 // then its name is the heading
  return (
    <table className="plain">
      <thead>
        <tr>
          <th>Of</th>
          {!one && <th>Setting</th>}
          <th>{one ? facts[0]?.setting : 'Value'}</th>
          <th>From</th>
          <th>Otherwise</th>
        </tr>
      </thead>
      <tbody>
        {facts.map((fact, n) => {
          const same = facts[n - 1]?.of === fact.of && facts[n - 1]?.link === fact.link
          return (
            <tr key={`${fact.link} ${fact.of} ${fact.setting}`}>
              <td style={{ maxWidth: 170 }}>
                {!same && (
                  <>
                    {fact.of}{' '}
                    <Link className="link quiet" to={`/${fact.link}`}>
                      {fact.chapter}
                    </Link>
                  </>
                )}
              </td>
              {!one && <td>{fact.setting}</td>}
              <td>{fact.value}</td>
              <td style={{ whiteSpace: 'nowrap' }}>
                <span className="mark info">{SIGN[fact.level]}</span> {fact.whence}
              </td>
              <td className="quiet">{fact.otherwise}</td>
            </tr>
          )
        })}
      </tbody>
    </table>
  )
}
