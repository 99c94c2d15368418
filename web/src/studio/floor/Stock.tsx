import type { GridColDef } from '@mui/x-data-grid'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useSearchParams } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { Grid, useRows } from '../parts/Grid'
import { Skeleton } from '../parts/Skeleton'
import { type Verdict } from '../parts/mapScene'
import { SiteMap } from '../parts/SiteMap'
import { useWorld, WorldPicker } from '../parts/WorldPicker'
import { Entry } from '../parts/controls'

type Line = Shape['StockLine']
const NOTHING = new Set<string>()

/** What codes that stand over one another begin with: `R-04-13-`. */
function together(codes: string[]): string {
  let shared = codes[0] ?? ''
  for (const code of codes) while (!code.startsWith(shared)) shared = shared.slice(0, -1)
  return shared
}

const code = (field: keyof Line, headerName: string, flex = 1): GridColDef<Line> => ({
  field,
  headerName,
  flex,
  minWidth: 80,
  renderCell: ({ value }) => <span className="mono">{value as string}</span>,
})

const COLUMNS: GridColDef<Line>[] = [
  { ...code('bin', 'Bin', 1.1), valueGetter: (bin: string) => bin || 'carried' },
  { field: 'zone', headerName: 'Zone', flex: 1, minWidth: 80, renderCell: ({ row }) => <Told text={row.zone} /> },
  code('plate', 'Plate', 1.2),
  code('item', 'Item', 1.1),
  { field: 'name', headerName: 'Name', flex: 1.8, minWidth: 110 },
  code('lot', 'Lot'),
  code('expiry', 'Expires'),
  { field: 'status', headerName: 'Status', flex: 0.9, minWidth: 80 },
  {
    field: 'quantity',
    headerName: 'Quantity',
    flex: 1,
    minWidth: 90,
    align: 'right',
    headerAlign: 'right',
    renderCell: ({ row }) => <span className="mono">{row.told}</span>,
  },
]

/** Stock of a world by bin, plate, item, lot and status; a plate that is being built is not in it. */
export default function Stock() {
  const chosen = useWorld('live')
  const [query] = useSearchParams()
  const [find, setFind] = useState(query.get('find') ?? '')
  const at = useRows('stock')
  const world = chosen.world?.id
  const stock = useQuery({
    queryKey: ['world', world, 'stock', find, at.query],
    enabled: !!world && at.ready,
    placeholderData: (before) => before,
    queryFn: () =>
      got(
        client.GET('/api/worlds/{id}/stock', { params: { path: { id: world ?? '' }, query: { ...at.query, find } } }),
      ),
  })
  const look = (text: string) => (setFind(text), at.setPage(0))
  const [drawn, setDrawn] = useState(true)
  const map = useQuery({
    queryKey: ['world', world, 'map'],
    enabled: !!world && drawn,
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
          What lies where, after every entry of the log. Goods on a plate that is still being built are not stock yet.
        </p>
        <div className="form">
          <WorldPicker {...chosen} />
          <Entry
            style={{ width: 280 }}
            placeholder="bin, plate, item or lot"
            aria-label="Find"
            value={find}
            onChange={(e) => look(e.target.value)}
          />
          <button className="link quiet" onClick={() => setDrawn(!drawn)}>
            {drawn ? 'without the map' : 'with the map'}
          </button>
          {stock.data && (
            <span className="quiet">
              {stock.data.total === 1 ? '1 row' : `${stock.data.total.toLocaleString()} rows`}
            </span>
          )}
        </div>
        {drawn && map.data && map.data.code.length > 0 && (
          <div className="mapbox side">
            <SiteMap
              map={map.data}
              level={null}
              by="fill"
              picked={NOTHING}
              pick={(codes) => codes[0] && look(codes.length > 1 ? together(codes) : codes[0])}
              verdicts={verdicts}
            />
          </div>
        )}
        {stock.error && <p className="empty">{stock.error.message}</p>}
        {!stock.data ? (
          <Skeleton />
        ) : stock.data.total === 0 && !at.filter.items.length ? (
          <p className="empty">Nothing in stock reads like “{find}”. Look for a bin, a plate, an item or a lot.</p>
        ) : (
          <Grid
            name="stock"
            rows={stock.data.rows}
            total={stock.data.total}
            columns={COLUMNS}
            at={at}
            loading={stock.isPlaceholderData}
            id={(r) => `${r.bin} ${r.plate} ${r.item} ${r.lot} ${r.expiry} ${r.status}`}
            empty="No stock reads like that."
          />
        )}
      </main>
    </div>
  )
}
