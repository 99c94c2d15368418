import { ActHead } from '../parts/controls'
import type { Shown } from './lists'

/** What somebody who picked did not find: nobody is sent there for it until somebody has looked. */
export function NotFound({ view, act }: Shown) {
  const rows = view.lists.not_found
  if (rows.length === 0) return <p className="empty">Whatever was to be picked was found.</p>
  return (
    <>
      <p className="quiet">It is kept from everybody until somebody has looked; then it is free again.</p>
      <table className="plain">
        <thead>
          <tr>
            <th>Item</th>
            <th className="num">Not found</th>
            <th>In bin</th>
            <th>By</th>
            {act && <ActHead />}
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr key={`${r.reservation} ${r.at}`}>
              <td>
                <span className="mono">{r.item}</span> {r.name}
                {r.lot && <small className="quiet"> lot {r.lot}</small>}
              </td>
              <td className="num">{r.much}</td>
              <td>
                <span className="mono">{r.at}</span>
                {r.plate && <small className="quiet"> on {r.plate}</small>}
              </td>
              <td>{r.who}</td>
              {act && (
                <td>
                  <button
                    className="link"
                    aria-label={`${r.item} in ${r.at} is there`}
                    onClick={() => act({ kind: 'let_go', reservation: r.reservation })}
                  >
                    It is there
                  </button>
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
    </>
  )
}
