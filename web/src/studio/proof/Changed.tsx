import type { Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { TaskActs } from './TaskActs'

type Expectation = Shape['PinBody']['expectation']

/** What is otherwise than at the opening: stock, plates being built, tasks, documents. A click pins it. */
export function Changed({
  world,
  pin,
  act,
}: {
  world: Shape['WorldView']
  /** Not on a live floor. */
  pin?: (e: Expectation) => void
  /** Not for those who only look. */
  act?: (act: Shape['CommandBody']['act']) => void
}) {
  const c = world.changes
  const nothing =
    !c.stock.length &&
    !c.building.length &&
    !c.lines.length &&
    !c.tasks.length &&
    !c.confirmed.length &&
    !c.blocked.length
  return (
    <>
      <h2 style={{ marginTop: 0 }}>What changed</h2>
      {nothing && <p className="quiet">Nothing yet.</p>}
      {c.stock.length > 0 && (
        <table className="plain">
          <thead>
            <tr>
              <th>Stock</th>
              <th style={{ textAlign: 'right' }}>before</th>
              <th style={{ textAlign: 'right' }}>now</th>
            </tr>
          </thead>
          <tbody>
            {c.stock.map((s) => (
              <tr key={`${s.bin} ${s.plate} ${s.item} ${s.lot} ${s.status}`}>
                <td style={{ width: '100%' }}>
                  {s.name}
                  <div className="quiet">
                    <span className="code">{s.bin || 'carried'}</span>{' '}
                    {s.plate && <span className="code">{s.plate}</span>} {s.lot && `lot ${s.lot}`}{' '}
                    {s.status !== 'available' && s.status}
                    {s.serials.length > 0 && <span className="mono"> {s.serials.slice(0, 4).join(', ')}</span>}
                    {s.serials.length > 4 && ` and ${s.serials.length - 4} more`}
                  </div>
                  {s.bin && pin && (
                    <button
                      className="link quiet"
                      onClick={() =>
                        pin({
                          kind: 'stock',
                          bin: { kind: 'bin', bin: s.bin },
                          item: s.item,
                          quantity: s.quantity,
                          lot: s.lot,
                          plate: s.plate ? { kind: 'text', text: s.plate } : null,
                          loose: !s.plate,
                          status: s.status,
                          serials: s.serials,
                        })
                      }
                    >
                      Expect this at the end
                    </button>
                  )}
                </td>
                <td className="num">{s.before}</td>
                <td className="num">
                  <b>{s.now}</b>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {c.building.map((p) => (
        <p key={p.plate} className="quiet">
          <span className="code">{p.plate}</span> is being built, not stock yet: {p.content}
        </p>
      ))}
      {c.tasks.length > 0 && (
        <>
          <h2>Tasks</h2>
          <table className="plain">
            <tbody>
              {c.tasks.map((t) => (
                <tr key={t.number}>
                  <td>
                    <span className="code">{t.number}</span>
                  </td>
                  <td>
                    <Told text={t.says} />{' '}
                    {act &&
                      world.offered
                        .filter((o) => o.task === t.number)
                        .map((o) => <TaskActs key={t.number} task={t} offered={o} act={act} />)}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
      {c.reservations.length > 0 && (
        <>
          <h2>Reserved</h2>
          <table className="plain">
            <tbody>
              {c.reservations.map((r) => (
                <tr key={r.number}>
                  <td>
                    <span className="code">{r.number}</span> for {r.holder}
                    <div className="quiet">
                      {r.parts.map((p) => `${p.goods.quantity} of ${p.goods.item} in ${p.bin}`).join(', ')}
                    </div>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
      {(c.lines.length > 0 || c.receipts.length > 0 || c.confirmed.length > 0) && (
        <>
          <h2>Documents</h2>
          <table className="plain">
            <tbody>
              {c.confirmed.map((o) => (
                <tr key={o}>
                  <td>
                    <span className="code">{o}</span> confirmed
                  </td>
                </tr>
              ))}
              {c.lines.map((l) => (
                <tr key={`${l.order} ${l.line}`}>
                  <td>
                    <span className="code">{l.order}</span> line {l.line}, {l.name}
                    <div className="quiet">{l.far}</div>
                  </td>
                </tr>
              ))}
              {c.receipts.map((r) => (
                <tr key={r.number}>
                  <td>
                    <span className="code">{r.number}</span>{' '}
                    {r.booked
                      ? 'booked'
                      : r.told
                        ? 'told to the host, not booked yet'
                        : 'arrived, not told to the host'}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
      {c.blocked.length > 0 && <p className="quiet">Blocked: {c.blocked.join(', ')}</p>}
      {c.waiting.length > 0 && <p className="quiet">The host has not answered: {c.waiting.join(', ')}</p>}
    </>
  )
}
