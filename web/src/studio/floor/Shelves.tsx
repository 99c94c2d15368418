import Button from '@mui/material/Button'
import { useState } from 'react'
import { Link } from 'react-router'
import { ActHead, Tick } from '../parts/controls'
import type { Shown } from './lists'

/** How full the shelves are that items are at home on, those that want something first; the office has them filled from reserve. */
export function Shelves({ view, world, act }: Shown) {
  const [all, setAll] = useState(false)
  const [ticked, setTicked] = useState<string[]>([])
  const rows = view.lists.shelves
  const wants = rows.filter((r) => r.low || r.coming > 0)
  const shown = all || wants.length === 0 ? rows : wants
  const id = (r: (typeof rows)[number]) => `${r.bin} ${r.item}`
  const mine = shown.filter((r) => ticked.includes(id(r)))
  const low = rows.filter((r) => r.low).length
  if (rows.length === 0)
    return (
      <p className="empty">
        No item is at home on a shelf here. Say so in the{' '}
        <Link className="link" to="/catalogue/home_bins">
          catalogue
        </Link>
        , with the least and the most to be kept there.
      </p>
    )
  return (
    <>
      <p className="quiet">
        {low === 0
          ? 'No shelf holds less than its least. '
          : `${low} ${low === 1 ? 'holds' : 'hold'} less than the least. `}
        What is brought, by whom and how urgently,{' '}
        <Link className="link" to="/recipes/replenish">
          recipes
        </Link>{' '}
        say.
      </p>
      {act && (
        <div className="form">
          <Button
            variant="contained"
            disabled={mine.length === 0}
            onClick={() => {
              act({ kind: 'fill_shelves', shelves: mine.map((r) => ({ bin: r.bin, item: r.item })) })
              setTicked([])
            }}
          >
            {mine.length > 1 ? `Fill these ${mine.length}` : 'Fill this'}
          </Button>
          <Button disabled={low === 0} onClick={() => act({ kind: 'fill_shelves', shelves: [] })}>
            Fill all that are low
          </Button>
          {wants.length > 0 && (
            <label className="tick">
              <Tick checked={all} onChange={(e) => setAll(e.target.checked)} /> all shelves
            </label>
          )}
        </div>
      )}
      <table className="plain" aria-label="Shelves">
        <thead>
          <tr>
            {act && <ActHead />}
            <th>Shelf</th>
            <th>Item</th>
            <th className="num">There</th>
            <th className="num">Free</th>
            <th className="num">Coming</th>
            <th className="num">Least</th>
            <th className="num">Most</th>
            <th>Refills</th>
          </tr>
        </thead>
        <tbody>
          {shown.map((r) => (
            <tr key={id(r)}>
              {act && (
                <td>
                  <Tick
                    aria-label={`Take ${id(r)}`}
                    checked={ticked.includes(id(r))}
                    onChange={() =>
                      setTicked(ticked.includes(id(r)) ? ticked.filter((k) => k !== id(r)) : [...ticked, id(r)])
                    }
                  />
                </td>
              )}
              <td className="mono">{r.bin}</td>
              <td>
                <span className="mono">{r.item}</span> {r.name}
                {r.wanted > 0 && (
                  <div className="quiet">
                    orders wait for {r.wanted.toLocaleString('en')} {r.unit}
                  </div>
                )}
              </td>
              <td className="num">{r.lying.toLocaleString('en')}</td>
              <td className="num">
                {r.low ? <strong>{r.free.toLocaleString('en')}, low</strong> : r.free.toLocaleString('en')}
              </td>
              <td className="num">{r.coming ? r.coming.toLocaleString('en') : ''}</td>
              <td className="num">{r.least.toLocaleString('en')}</td>
              <td className="num">{r.most ? r.most.toLocaleString('en') : ''}</td>
              <td>
                {r.refills.map((t) => (
                  <span key={t}>
                    <Link className="link mono" to={`/documents?world=${world}&doc=${t}`}>
                      {t}
                    </Link>{' '}
                  </span>
                ))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  )
}
