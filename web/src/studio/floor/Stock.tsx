import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useSearchParams } from 'react-router'
import { client, got } from '../../shared/client'
import { Told } from '../../shared/Told'
import { Skeleton } from '../parts/Skeleton'
import { type Verdict } from '../parts/mapScene'
import { SiteMap } from '../parts/SiteMap'
import { useWorld, WorldPicker } from '../parts/WorldPicker'
import { Entry } from '../parts/controls'

const NOTHING = new Set<string>()

/** What codes that stand over one another begin with: `R-04-13-`. */
function together(codes: string[]): string {
  let shared = codes[0] ?? ''
  for (const code of codes) while (!code.startsWith(shared)) shared = shared.slice(0, -1)
  return shared
}

/** Stock of a world by bin, plate, item, lot and status; a plate that is being built is not in it. */
export default function Stock() {
  const chosen = useWorld('live')
  const [query] = useSearchParams()
  const [find, setFind] = useState(query.get('find') ?? '')
  const world = chosen.world?.id
  const stock = useQuery({
    queryKey: ['world', world, 'stock', find],
    enabled: !!world,
    placeholderData: (before) => before,
    queryFn: () =>
      got(client.GET('/api/worlds/{id}/stock', { params: { path: { id: world ?? '' }, query: { find } } })),
  })
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
            onChange={(e) => setFind(e.target.value)}
          />
          <button className="link quiet" onClick={() => setDrawn(!drawn)}>
            {drawn ? 'without the map' : 'with the map'}
          </button>
          {stock.data && (
            <span className="quiet">
              {stock.data.rows.length < stock.data.total
                ? `first ${stock.data.rows.length} of ${stock.data.total} rows; type to narrow`
                : `${stock.data.total} rows`}
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
              pick={(codes) => codes[0] && setFind(codes.length > 1 ? together(codes) : codes[0])}
              verdicts={verdicts}
            />
          </div>
        )}
        {stock.error && <p className="empty">{stock.error.message}</p>}
        {!stock.data ? (
          <Skeleton />
        ) : stock.data.rows.length === 0 ? (
          <p className="empty">Nothing in stock reads like “{find}”. Look for a bin, a plate, an item or a lot.</p>
        ) : (
          <table className="plain">
            <thead>
              <tr>
                <th>Bin</th>
                <th>Zone</th>
                <th>Plate</th>
                <th>Item</th>
                <th>Name</th>
                <th>Lot</th>
                <th>Expires</th>
                <th>Status</th>
                <th style={{ textAlign: 'right' }}>Quantity</th>
              </tr>
            </thead>
            <tbody>
              {stock.data.rows.map((r) => (
                <tr key={`${r.bin} ${r.plate} ${r.item} ${r.lot} ${r.status}`}>
                  <td className="mono">{r.bin || 'carried'}</td>
                  <td>
                    <Told text={r.zone} />
                  </td>
                  <td className="mono">{r.plate}</td>
                  <td className="mono">{r.item}</td>
                  <td>{r.name}</td>
                  <td className="mono">{r.lot}</td>
                  <td className="mono">{r.expiry}</td>
                  <td>{r.status}</td>
                  <td className="num">{r.told}</td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </main>
    </div>
  )
}
