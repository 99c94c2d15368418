import Button from '@mui/material/Button'
import { keepPreviousData, useMutation, useQuery } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { client, got, sent, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { Entry, Pick, Tick } from '../parts/controls'
import { LongBody } from '../parts/LongBody'
import { Skeleton } from '../parts/Skeleton'
import type { Act } from './lists'

type Line = Shape['LineShown']

/** A sheet with its lines, the greatest differences first: posted, counted again, dropped. */
export function CountInside(props: {
  world: string
  count: string
  act: (a: Act) => void
  may: (kind: string) => boolean
  me: Shape['Me']
}) {
  const { world, count, act, may, me } = props
  const [chosen, setChosen] = useState<number[]>([])
  const [why, setWhy] = useState('')
  const [only, setOnly] = useState(true)
  const view = useQuery({
    queryKey: ['world', world, 'count', count],
    placeholderData: keepPreviousData,
    queryFn: () => got(client.GET('/api/worlds/{id}/counts/{count}', { params: { path: { id: world, count } } })),
  })
  if (view.error) return <p className="empty">{view.error.message}</p>
  if (!view.data) return <Skeleton />
  const { sheet: s, lines, own_posts, closes, dropped } = view.data
  const differs = lines.filter((x) => x.difference !== 0 || x.moved !== 0 || x.again !== '')
  const shown = only && differs.length > 0 ? differs : lines
  const waits = (x: Line) => x.counted !== null && !x.posted
  const mine = (x: Line) => !own_posts && x.by === me.id
  const marked = chosen.filter((no) => lines.some((x) => x.no === no && waits(x)))
  const does = (a: Act) => (act(a), setChosen([]), setWhy(''))
  return (
    <>
      <h2>
        <span>
          Sheet <span className="code">{count}</span>
        </span>
        <small className="quiet">
          {s.bins === 1 ? '1 bin' : `${s.bins} bins`}, <Told text={s.why} />
          {s.who.length > 0 && <Told text={`, counted by ${s.who.map((w) => `@${w}`).join(', ')}`} />}
        </small>
      </h2>
      {closes && s.left > 0 && <p className="quiet">Its bins are blocked until they are counted.</p>}
      {dropped && <p className="mark doubt">▲ The rest is counted no more: {dropped}.</p>}
      <div className="form">
        {may('post_count') && s.waiting > 0 && (
          <Button variant="contained" onClick={() => does({ kind: 'post_count', count, lines: marked })}>
            {marked.length
              ? `Post ${marked.length === 1 ? 'this line' : `these ${marked.length}`}`
              : 'Post what may be'}
          </Button>
        )}
        {may('count_again') && marked.length > 0 && (
          <Button onClick={() => does({ kind: 'count_again', count, lines: marked, why: why.trim() })}>
            Count {marked.length === 1 ? 'it' : 'them'} again
          </Button>
        )}
        {may('drop_count') && s.left > 0 && (
          <>
            <Entry
              aria-label="Reason"
              placeholder="why; the log keeps it"
              style={{ flex: 1, minWidth: 110 }}
              value={why}
              maxLength={120}
              onChange={(e) => setWhy(e.target.value)}
            />
            <Button
              disabled={why.trim().length < 3}
              onClick={() => does({ kind: 'drop_count', count, why: why.trim() })}
            >
              Drop the rest
            </Button>
          </>
        )}
      </div>
      {s.left > 0 && !dropped && (
        <OnPaper
          key={count}
          path={`/api/worlds/${world}/counts/${count}` as const}
          enter={
            may('enter_counts') ? (found, by) => does({ kind: 'enter_counts', count, lines: found, by }) : undefined
          }
        />
      )}
      {differs.length > 0 && differs.length < lines.length && (
        <label>
          <Tick checked={only} onChange={(e) => setOnly(e.target.checked)} />
          only what differs: {differs.length} of {lines.length}
        </label>
      )}
      <table className="plain rows countlines" aria-label={`Lines of ${count}`} aria-rowcount={shown.length + 1}>
        <thead>
          <tr>
            <th>
              <span className="sr">Choose</span>
            </th>
            <th>What, where</th>
            <th style={{ textAlign: 'right' }}>Book</th>
            <th style={{ textAlign: 'right' }}>Counted</th>
            <th style={{ textAlign: 'right' }}>Off by</th>
            <th style={{ textAlign: 'right' }}>Worth</th>
          </tr>
        </thead>
        <LongBody rows={shown} id={(x) => x.no} columns={6}>
          {(x) => (
            <>
              <td>
                {waits(x) && (
                  <Tick
                    aria-label={`Line ${x.no}`}
                    checked={chosen.includes(x.no)}
                    onChange={(e) =>
                      setChosen(e.target.checked ? [...chosen, x.no] : chosen.filter((no) => no !== x.no))
                    }
                  />
                )}
                {x.posted > 0 && (
                  <span className="mark holds" title="in the books">
                    ✓
                  </span>
                )}
              </td>
              <td>
                {x.name}
                {x.lot && `, lot ${x.lot}`}
                {x.status !== 'available' && `, ${x.status}`}
                <div className="quiet">
                  <span className="code">{x.bin}</span>
                  {x.plate && (
                    <>
                      {' '}
                      on <span className="code">{x.plate}</span>
                    </>
                  )}
                </div>
                <Says of={x} mine={mine(x)} />
              </td>
              <td className="num">{x.book}</td>
              <td className="num">{x.counted ?? <span className="quiet">not yet</span>}</td>
              <td className="num">{x.counted === null || x.difference === 0 ? '' : signed(x.difference)}</td>
              <td className="num">{x.counted === null || x.difference === 0 ? '' : x.worth}</td>
            </>
          )}
        </LongBody>
      </table>
    </>
  )
}

type Read = Shape['ReadCountsView']

/** The sheet on paper or as a file, and what was found by it, brought in again: looked at first, then entered. */
function OnPaper(props: { path: `/api/worlds/${string}`; enter?: (found: Read['lines'], by: string | null) => void }) {
  const { path, enter } = props
  const [by, setBy] = useState('')
  const box = useRef<HTMLInputElement>(null)
  const people = useQuery({ queryKey: ['people'], queryFn: () => got(client.GET('/api/people')) })
  const read = useMutation({
    mutationFn: (file: File) => {
      const form = new FormData()
      form.append('file', file)
      return sent<Read>(`${path}/read`, form)
    },
  })
  const found = read.data
  return (
    <details>
      <summary>Counted on paper</summary>
      <p className="quiet">
        <a className="link" href={`${path}/sheet.pdf`} target="_blank" rel="noreferrer">
          The sheet as PDF
        </a>
        , or{' '}
        <a className="link" href={`${path}/sheet.csv`}>
          as CSV
        </a>{' '}
        to be filled in: a number in <i>counted</i>, <i>none</i> where nothing is there. What is left blank is not
        counted.
      </p>
      {enter && (
        <>
          <div className="form">
            <Button onClick={() => box.current?.click()}>Bring it in again</Button>
            <input
              type="file"
              hidden
              ref={box}
              aria-label="The sheet, filled in"
              accept=".csv,.xlsx,text/csv"
              onChange={(e) => {
                const [file] = e.target.files ?? []
                if (file) read.mutate(file)
                e.target.value = ''
              }}
            />
            <Pick aria-label="Who counted" value={by} onChange={(e) => setBy(e.target.value)}>
              <option value="">counted by me</option>
              {(people.data?.people ?? []).map((p) => (
                <option key={p.id} value={p.id}>
                  {p.name}
                </option>
              ))}
            </Pick>
          </div>
          {read.error && <p className="mark fails">✕ {read.error.message}</p>}
          {found && (
            <>
              <p>
                {found.lines.length === 1 ? '1 line has' : `${found.lines.length} lines have`} a number, {found.blank}{' '}
                left blank.
              </p>
              {found.wrong.length > 0 && (
                <ul aria-label="What is wrong">
                  {found.wrong.map((says) => (
                    <li key={says}>
                      <Told text={says} />
                    </li>
                  ))}
                </ul>
              )}
              {found.lines.length > 0 && (
                <Button
                  sx={{ marginBottom: 1.5 }}
                  onClick={() => {
                    enter(found.lines, by || null)
                    read.reset()
                  }}
                >
                  {found.wrong.length ? 'Enter those that are right' : 'Enter them'}
                </Button>
              )}
            </>
          )}
        </>
      )}
    </details>
  )
}

const signed = (n: number) => (n > 0 ? `+${n}` : `−${-n}`)

/** What is to be known of a line before it is posted. */
function Says({ of: x, mine }: { of: Line; mine: boolean }) {
  const says = [
    x.found && 'found: it was not on the sheet',
    x.before.length > 0 && `counted before: ${x.before.join(', ')}`,
    x.again && x.counted === null && `again, not by ${x.not_by.map((p) => `@${p}`).join(', ')}: ${x.again}`,
    x.counted !== null && x.by && `by @${x.by}`,
  ].filter(Boolean)
  return (
    <>
      {says.length > 0 && (
        <div className="quiet">
          <Told text={says.join('; ')} />
        </div>
      )}
      {x.moved !== 0 && (
        <div className="mark doubt">
          ▲ {Math.abs(x.moved)} {x.moved > 0 ? 'came' : 'went'} since it was counted
        </div>
      )}
      {mine && x.counted !== null && !x.posted && (
        <div className="mark info">you counted it: somebody else posts it</div>
      )}
    </>
  )
}
