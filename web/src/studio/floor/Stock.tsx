import type { GridColDef } from '@mui/x-data-grid'
import { useQuery } from '@tanstack/react-query'
import { useCallback, useMemo, useState } from 'react'
import { useSearchParams } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { Grid, useRows } from '../parts/Grid'
import { Skeleton } from '../parts/Skeleton'
import { COUNTED, type Verdict } from '../parts/mapScene'
import { Sheet } from '../parts/Sheet'
import { SiteMap } from '../parts/SiteMap'
import { useAnswered } from '../parts/Answered'
import { mayDo, useWorld, WorldPicker } from '../parts/WorldPicker'
import { CorrectStock } from './CorrectStock'
import { Entry, Pick } from '../parts/controls'
import { TabRow } from '../parts/TabRow'
import { StockBetween } from './StockBetween'
import { code, Levels } from './stockParts'

type Line = Shape['StockLine']
const NOTHING = new Set<string>()
/** A number of an entry in the address. */
const numberIn = (text: string | null) => (text !== null && /^\d{1,12}$/.test(text) ? Number(text) : null)

/** What codes that stand over one another begin with: `R-04-13-`. */
function together(codes: string[]): string {
  let shared = codes[0] ?? ''
  for (const code of codes) while (!code.startsWith(shared)) shared = shared.slice(0, -1)
  return shared
}

const columns = (find: string, correct?: (of: Line) => void): GridColDef<Line>[] => [
  { ...code<Line>('bin', 'Bin', 1.1), valueGetter: (bin: string) => bin || 'carried' },
  { field: 'zone', headerName: 'Zone', flex: 1, minWidth: 80, renderCell: ({ row }) => <Told text={row.zone} /> },
  code<Line>('plate', 'Plate', 1.2),
  code<Line>('item', 'Item', 1.1),
  { field: 'name', headerName: 'Name', flex: 1.8, minWidth: 110 },
  {
    field: 'lot',
    headerName: 'Lot, numbers',
    flex: 1.2,
    minWidth: 110,
    renderCell: ({ row }) => <LotOrNumbers row={row} find={find} />,
  },
  code<Line>('expiry', 'Expires'),
  { field: 'status', headerName: 'Status', flex: 0.9, minWidth: 80 },
  {
    field: 'quantity',
    headerName: 'Quantity',
    flex: 1,
    minWidth: 118,
    align: 'right',
    headerAlign: 'right',
    renderCell: ({ row }) => <span className="mono">{row.told}</span>,
  },
  ...(correct
    ? [
        {
          field: 'act',
          headerName: '',
          width: 76,
          sortable: false,
          filterable: false,
          renderCell: ({ row }: { row: Line }) =>
            row.bin && (
              <button className="link" onClick={() => correct(row)}>
                Correct
              </button>
            ),
        },
      ]
    : []),
]

/** The lot of a row, or the serial numbers of its pieces: the only one, or how many, all of them told by a click. */
function LotOrNumbers({ row, find }: { row: Line; find: string }) {
  const [open, setOpen] = useState(false)
  const reads = (n: string) => !!find && n.toLowerCase().includes(find.trim().toLowerCase())
  const found = row.serials.filter(reads)
  if (row.serials.length < 2) return <span className="mono">{row.serials[0] ?? row.lot}</span>
  return (
    <>
      <button className="link" onClick={() => setOpen(true)}>
        {found.length === 1 ? <span className="mono">{found[0]}</span> : `${row.serials.length} numbers`}
      </button>
      {open && (
        <Sheet open onClose={() => setOpen(false)} label={`Serial numbers in ${row.bin}`} fullWidth maxWidth="sm">
          <div style={{ padding: 20 }}>
            <h2 style={{ marginTop: 0 }}>
              <span className="code">{row.item}</span> {row.name}
            </h2>
            <p className="quiet">
              {row.serials.length} pieces {row.plate ? `on ${row.plate}, ` : ''}in {row.bin}, {row.status}
            </p>
            <p className="numbers">
              {row.serials.map((n) => (
                <span key={n} className={reads(n) ? 'code' : 'mono'}>
                  {n}
                </span>
              ))}
            </p>
          </div>
        </Sheet>
      )}
    </>
  )
}

/** What the colours of bins say on the map that shows when they were counted. */
function CountedLegend() {
  return (
    <div className="legend">
      <span>counted last</span>
      {COUNTED.map(([, says, colour]) => (
        <span key={says}>
          <svg viewBox="0 0 10 10" aria-hidden="true">
            <rect width="10" height="10" fill={colour} />
          </svg>
          {says}
        </span>
      ))}
      <span>
        <svg viewBox="0 0 10 10" aria-hidden="true">
          <rect x="1" y="1" width="8" height="8" fill="none" stroke="var(--clay)" strokeWidth="1.6" />
        </svg>
        never, or some of those above one another
      </span>
    </div>
  )
}

/** Stock of a world by bin, plate, item, lot and status; a plate that is being built is not in it. */
export default function Stock({ me }: { me: Shape['Me'] }) {
  const chosen = useWorld('live')
  const answered = useAnswered(chosen.world?.id ?? '')
  const [wrong, setWrong] = useState<Line | null>(null)
  const mayAdjust = mayDo(me, chosen.world, 'adjust_stock')
  const mayChange = mayDo(me, chosen.world, 'change_status')
  const [query, setQuery] = useSearchParams()
  const from = numberIn(query.get('from'))
  const to = numberIn(query.get('to'))
  const between = query.get('view') === 'between' || to !== null
  const [find, setFind] = useState(query.get('find') ?? '')
  const at = useRows('stock')
  const world = chosen.world?.id
  const stock = useQuery({
    queryKey: ['world', world, 'stock', find, at.query],
    enabled: !!world && at.ready && !between,
    placeholderData: (before) => before,
    queryFn: () =>
      got(
        client.GET('/api/worlds/{id}/stock', { params: { path: { id: world ?? '' }, query: { ...at.query, find } } }),
      ),
  })
  const may = mayAdjust || mayChange
  const shown = useMemo(() => columns(find, may ? setWrong : undefined), [find, may])
  const { setPage } = at
  const look = useCallback((text: string) => (setFind(text), setPage(0)), [setPage])
  const [drawn, setDrawn] = useState<'fill' | 'counted' | ''>(query.get('map') === 'counted' ? 'counted' : 'fill')
  const map = useQuery({
    queryKey: ['world', world, 'map'],
    enabled: !!world && !!drawn && !between,
    placeholderData: (before) => before,
    queryFn: () => got(client.GET('/api/worlds/{id}/map', { params: { path: { id: world ?? '' } } })),
  })
  // what is looked for stands out on the map; with nothing looked for, it shows how full every bin is
  const verdicts: Record<string, Verdict> | undefined = find
    ? Object.fromEntries((stock.data?.rows ?? []).map((r) => [r.bin, 'chosen']))
    : undefined
  return (
    <div className="page wide">
      <main className="main">
        <h1>Stock</h1>
        <p className="lead">
          {between
            ? 'What one entry of the log did to the stock, or several: the rows that are others, before and after.'
            : 'What lies where, after every entry of the log. Goods on a plate that is still being built are not stock yet.'}
        </p>
        <TabRow
          label="Stock"
          tabs={[
            ['now', 'As it is now'],
            ['between', 'Before and after'],
          ]}
          value={between ? 'between' : 'now'}
          choose={(view) => world && setQuery(view === 'now' ? { world } : { world, view })}
        />
        <div className="form">
          <WorldPicker
            {...chosen}
            choose={(id) => (between ? setQuery({ world: id, view: 'between' }) : chosen.choose(id))}
          />
          <Entry
            style={{ width: 280 }}
            placeholder="bin, plate, item, lot or number"
            aria-label="Find"
            value={find}
            onChange={(e) => look(e.target.value)}
          />
          {!between && (
            <Pick aria-label="The map shows" value={drawn} onChange={(e) => setDrawn(e.target.value as typeof drawn)}>
              <option value="fill">the map: how full bins are</option>
              <option value="counted">the map: when they were counted</option>
              <option value="">without the map</option>
            </Pick>
          )}
          {stock.data && !between && (
            <span className="quiet">
              {stock.data.total === 1 ? '1 row' : `${stock.data.total.toLocaleString()} rows`}
            </span>
          )}
        </div>
        {!between && drawn && map.data && map.data.code.length > 0 && (
          <div className="mapbox side">
            <SiteMap
              map={map.data}
              level={null}
              by={drawn}
              picked={NOTHING}
              pick={(codes) => codes[0] && look(codes.length > 1 ? together(codes) : codes[0])}
              verdicts={verdicts}
            />
          </div>
        )}
        {!between && drawn === 'counted' && !find && <CountedLegend />}
        {answered.shown}
        {wrong && (
          <CorrectStock
            of={wrong}
            act={answered.act}
            adjust={mayAdjust}
            change={mayChange}
            reasons={stock.data?.reasons ?? []}
            close={() => setWrong(null)}
          />
        )}
        {between ? (
          world && (
            <StockBetween
              world={world}
              find={find}
              look={look}
              from={from}
              to={to}
              choose={(first, last) => setQuery({ world, from: String(first), to: String(last) })}
            />
          )
        ) : (
          <>
            {stock.data?.levels && <Levels of={stock.data.levels} />}
            {stock.error && <p className="empty">{stock.error.message}</p>}
            {!stock.data ? (
              <Skeleton />
            ) : stock.data.total === 0 && !at.filter.items.length ? (
              <p className="empty">
                Nothing in stock reads like “{find}”. Look for a bin, a plate, an item, a lot or a serial number.
              </p>
            ) : (
              <Grid
                name="stock"
                rows={stock.data.rows}
                total={stock.data.total}
                columns={shown}
                at={at}
                loading={stock.isPlaceholderData}
                id={(r) => `${r.bin} ${r.plate} ${r.item} ${r.lot} ${r.expiry} ${r.status}`}
                empty="No stock reads like that."
              />
            )}
          </>
        )}
      </main>
    </div>
  )
}
