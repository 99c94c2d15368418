import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useSearchParams } from 'react-router'
import { client, got } from '../shared/client'
import { Told } from '../shared/Told'
import { Skeleton } from './BinRules'
import { useWorlds } from './data'

/** Stock of a world by bin, plate, item, lot and status; a plate that is being built is not in it. */
export default function Stock() {
  const worlds = useWorlds()
  const [query, setQuery] = useSearchParams()
  const [find, setFind] = useState(query.get('find') ?? '')
  const world = query.get('world') ?? worlds.data?.worlds.find((w) => w.kind === 'live')?.id ?? worlds.data?.worlds[0]?.id
  const stock = useQuery({
    queryKey: ['world', world, 'stock', find],
    enabled: !!world,
    placeholderData: (before) => before,
    queryFn: () => got(client.GET('/api/worlds/{id}/stock', { params: { path: { id: world ?? '' }, query: { find } } })),
  })
  return (
    <div className="page wide">
      <main className="main">
        <h1>Stock</h1>
        <p className="lead">What lies where, after every entry of the log. Goods on a plate that is still being built are not stock yet.</p>
        <div className="form">
          <select className="select" aria-label="World" value={world ?? ''} onChange={(e) => setQuery({ world: e.target.value })}>
            {worlds.data?.worlds.map((w) => (
              <option key={w.id} value={w.id}>
                {w.name} ({w.kind === 'live' ? 'live' : `run of ${w.seq} entries`})
              </option>
            ))}
          </select>
          <input className="input" style={{ width: 280 }} placeholder="bin, plate, item or lot" aria-label="Find" value={find} onChange={(e) => setFind(e.target.value)} />
          {stock.data && (
            <span className="quiet">
              {stock.data.rows.length < stock.data.total ? `first ${stock.data.rows.length} of ${stock.data.total} rows; type to narrow` : `${stock.data.total} rows`}
            </span>
          )}
        </div>
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
