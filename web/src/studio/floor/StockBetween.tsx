import type { GridColDef } from '@mui/x-data-grid'
import { useQuery } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { Grid, useRows } from '../parts/Grid'
import { Skeleton } from '../parts/Skeleton'
import { Entry } from '../parts/controls'
import { code, LEVELS } from './stockParts'

type Line = Shape['BetweenLine']
const MOST = 200

/** What a row of stock was or is, with the numbers of pieces that are only on this side. */
const side = (field: 'before' | 'after', headerName: string, numbers: 'gone' | 'came'): GridColDef<Line> => ({
  field,
  headerName,
  flex: 1.4,
  minWidth: 140,
  align: 'right',
  headerAlign: 'right',
  renderCell: ({ row }) => (
    <span className="stacked" title={row[numbers].join(', ')}>
      <span className="mono">{row[field] || '–'}</span>
      {row[numbers].length > 0 && (
        <span className="mono quiet">
          {row[numbers].slice(0, 2).join(', ')}
          {row[numbers].length > 2 && `, ${row[numbers].length - 2} more`}
        </span>
      )}
    </span>
  ),
})

/** Columns nothing stands in are left out. */
const columns = (rows: Line[], look: (text: string) => void): GridColDef<Line>[] => [
  {
    ...code<Line>('item', 'Item', 1.1),
    renderCell: ({ row }) => (
      <button className="link mono" onClick={() => look(row.item)} title="Only this item, and how far it is">
        {row.item}
      </button>
    ),
  },
  { field: 'name', headerName: 'Name', flex: 1.7, minWidth: 110 },
  { ...code<Line>('bin', 'Bin', 1.1), minWidth: 104, valueGetter: (bin: string) => bin || 'carried' },
  { field: 'zone', headerName: 'Zone', flex: 1, minWidth: 80, renderCell: ({ row }) => <Told text={row.zone} /> },
  ...(rows.some((r) => r.plate) ? [code<Line>('plate', 'Plate', 1.2)] : []),
  ...(rows.some((r) => r.lot) ? [code<Line>('lot', 'Lot')] : []),
  { field: 'status', headerName: 'Status', flex: 0.9, minWidth: 80 },
  side('before', 'Before', 'gone'),
  side('after', 'After', 'came'),
  {
    field: 'change',
    headerName: 'Difference',
    flex: 1.1,
    minWidth: 104,
    align: 'right',
    headerAlign: 'right',
    renderCell: ({ row }) => <b className={row.more < 0 ? 'mono less' : 'mono'}>{row.change}</b>,
  },
]

const clock = (at: string, zone: string) =>
  new Date(at).toLocaleString('en-GB', {
    timeZone: zone, weekday: 'short', day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit', second: '2-digit',
  }) // prettier-ignore

/** Stock before and after some entries of the log, side by side; what was done in between stands beneath, each to be looked
 * at alone. */
export function StockBetween(props: {
  world: string
  find: string
  look: (text: string) => void
  from: number | null
  to: number | null
  choose: (from: number, to: number) => void
}) {
  const { world, find, look, from, to, choose } = props
  const at = useRows('stock between')
  const asked = { ...(from === null ? {} : { after: from }), ...(to === null ? {} : { until: to }) }
  const found = useQuery({
    queryKey: ['world', world, 'between', from, to, find, at.query],
    enabled: at.ready,
    placeholderData: (before) => before,
    queryFn: () =>
      got(
        client.GET('/api/worlds/{id}/stock/between', {
          params: { path: { id: world }, query: { ...at.query, ...asked, find } },
        }),
      ),
  })
  const rows = found.data?.rows
  const shown = useMemo(() => columns(rows ?? [], look), [rows, look])
  const is = found.data
  if (found.error) return <Around {...{ from, to, choose }} wrong={found.error.message} />
  if (!is) return <Skeleton />
  if (is.seq === 0) return <p className="empty">Nothing was done here yet.</p>
  const alone = is.until - is.after === 1
  return (
    <>
      <Around from={is.after} to={is.until} seq={is.seq} choose={choose} key={`${is.after} ${is.until}`}>
        <span className="quiet">
          {clock(is.at_before, is.time_zone)}
          {is.at_after !== is.at_before && ` to ${clock(is.at_after, is.time_zone)}`}
        </span>
      </Around>
      {is.was && is.levels && <LevelsBetween was={is.was} now={is.levels} />}
      {is.total === 0 && !at.filter.items.length ? (
        <p className="empty">
          {find
            ? `No row of stock that reads like “${find}” is another after than before.`
            : alone
              ? `Entry ${is.until} moved no stock.`
              : 'No stock was moved in between.'}
        </p>
      ) : (
        <Grid
          name="stock before and after"
          rows={is.rows}
          total={is.total}
          columns={shown}
          at={at}
          tall={is.rows.some((r) => r.gone.length + r.came.length > 0)}
          loading={found.isPlaceholderData}
          id={(r) => `${r.bin} ${r.zone} ${r.plate} ${r.item} ${r.lot} ${r.expiry} ${r.status}`}
          empty="No row that is another reads like that."
        />
      )}
      <Meanwhile world={world} after={is.after} until={is.until} choose={choose} />
    </>
  )
}

/** How far the stock of one item was and is. */
function LevelsBetween({ was, now }: { was: Shape['LevelsView']; now: Shape['LevelsView'] }) {
  return (
    <table className="plain" aria-label={`How far ${now.item} was and is`}>
      <thead>
        <tr>
          <th>{now.name}</th>
          {LEVELS.map(([field, word, what]) => (
            <th key={field} title={what}>
              {word}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        <tr>
          <td>before</td>
          {LEVELS.map(([field]) => (
            <td key={field}>{was[field]}</td>
          ))}
        </tr>
        <tr>
          <td>after</td>
          {LEVELS.map(([field]) => (
            <td key={field}>{was[field] === now[field] ? now[field] : <b className="less">{now[field]}</b>}</td>
          ))}
        </tr>
      </tbody>
    </table>
  )
}

/** From which entry to which: typed, or one further with a button. */
function Around(props: {
  from: number | null
  to: number | null
  seq?: number
  choose: (from: number, to: number) => void
  wrong?: string
  children?: React.ReactNode
}) {
  const { from, to, seq, choose, wrong, children } = props
  const [first, setFirst] = useState(String((from ?? 0) + 1))
  const [last, setLast] = useState(String(to ?? ''))
  const whole = (text: string) => /^\d{1,9}$/.test(text.trim())
  const ready = whole(first) && whole(last) && Number(first) > 0 && Number(last) > 0
  const long = (to ?? 0) - (from ?? 0)
  return (
    <>
      <form className="form" onSubmit={(e) => (e.preventDefault(), ready && choose(Number(first) - 1, Number(last)))}>
        <label className="inline">
          Before entry
          <Entry style={{ width: 84 }} value={first} onChange={(e) => setFirst(e.target.value)} inputMode="numeric" />
        </label>
        <label className="inline">
          and after entry
          <Entry style={{ width: 84 }} value={last} onChange={(e) => setLast(e.target.value)} inputMode="numeric" />
        </label>
        <button className="link" disabled={!ready}>
          Show
        </button>
        {from !== null && to !== null && long > 0 && seq !== undefined && (
          <>
            <button
              type="button"
              className="link quiet"
              disabled={from < long}
              onClick={() => choose(from - long, to - long)}
            >
              {long === 1 ? 'the entry before' : `the ${long} before`}
            </button>
            <button
              type="button"
              className="link quiet"
              disabled={to + long > seq}
              onClick={() => choose(from + long, to + long)}
            >
              {long === 1 ? 'the entry after' : `the ${long} after`}
            </button>
          </>
        )}
        {children}
      </form>
      {wrong && <p className="empty">{wrong}</p>}
    </>
  )
}

/** What was done in between. */
function Meanwhile(props: { world: string; after: number; until: number; choose: (from: number, to: number) => void }) {
  const { world, after, until, choose } = props
  const first = Math.max(after, until - MOST)
  const log = useQuery({
    queryKey: ['world', world, 'log between', first, until],
    enabled: until > after,
    queryFn: () =>
      got(client.GET('/api/worlds/{id}/log', { params: { path: { id: world }, query: { after: first, until } } })),
  })
  if (until <= after || !log.data) return null
  return (
    <section>
      <h2>{until - after === 1 ? 'What it did' : 'What was done in between'}</h2>
      {first > after && <p className="quiet">The last {MOST} entries of them.</p>}
      <ol className="log">
        {log.data.entries.map((e) => (
          <li key={e.seq}>
            <button className="row" onClick={() => choose(e.seq - 1, e.seq)} disabled={until - after === 1}>
              <span className="seq">{String(e.seq).padStart(2, '0')}</span>
              <span className="seq">{e.device ?? (e.who === 'host' ? 'host' : 'office')}</span>
              <span className={e.done ? '' : 'refused'}>
                <Told text={e.says} />
              </span>
            </button>
          </li>
        ))}
      </ol>
    </section>
  )
}
