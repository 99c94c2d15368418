import { useQuery } from '@tanstack/react-query'
import { Link, useSearchParams } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { when } from '../../shared/when'
import { useAnswered } from '../parts/Answered'
import { Board } from '../parts/Board'
import { mayDo, useWorld } from '../parts/WorldPicker'
import { ShipmentInside } from './ShipmentInside'

type Leaving = Shape['ShipmentLeaving']
const WORD: Record<string, string> = { pick: 'picked', sort: 'sorted', pack: 'packed', stage: 'staged', load: 'loaded' }

/** Trucks and doors, shipments with how far each is and what is missing, and what has left. */
export default function DockBoard({ me }: { me: Shape['Me'] }) {
  const chosen = useWorld('live')
  const [query, setQuery] = useSearchParams()
  const world = chosen.world?.id ?? ''
  const view = useQuery({
    queryKey: ['world', world, 'dock'],
    enabled: !!world,
    queryFn: () => got(client.GET('/api/worlds/{id}/dock', { params: { path: { id: world } } })),
  })
  const answered = useAnswered(world)
  const show = (shipment: string) => {
    const next = new URLSearchParams(query)
    next.set('shipment', shipment)
    setQuery(next, { replace: true })
  }
  const board = view.data
  const one = query.get('shipment') ?? board?.leaving[0]?.shipment ?? board?.gone[0]?.shipment ?? ''
  return (
    <Board
      title="Dock board"
      lead={
        <>
          What leaves together, how far it is, and what is missing. Packed at{' '}
          <a className="link" href={`/station${world ? `?world=${world}` : ''}`}>
            pack stations
          </a>{' '}
          and on handsets.
        </>
      }
      chosen={chosen}
      view={view}
      says={answered.shown}
      beside="Chosen shipment"
      inside={
        one &&
        world && (
          <ShipmentInside
            key={one}
            world={world}
            number={one}
            act={answered.act}
            may={(k) => mayDo(me, chosen.world, k)}
          />
        )
      }
    >
      {board && (
        <>
          {board.trucks.length > 0 && (
            <table className="plain" aria-label="Trucks">
              <thead>
                <tr>
                  <th>Truck</th>
                  <th>Door</th>
                  <th>Comes</th>
                  <th>Of</th>
                  <th>On it, and meant for it</th>
                </tr>
              </thead>
              <tbody>
                {board.trucks.map((t) => (
                  <tr key={t.truck}>
                    <td>
                      <span className="code">{t.truck}</span>
                    </td>
                    <td>
                      <span className="code">{t.door}</span>
                    </td>
                    <td style={{ whiteSpace: 'nowrap' }}>
                      {t.day}, {t.time}
                    </td>
                    <td>{t.carrier || 'any carrier'}</td>
                    <td>
                      {t.loaded.length > 0 && <span>{t.loaded.length} loaded </span>}
                      {t.shipments.map((s) => (
                        <button key={s} className="link code" onClick={() => show(s)}>
                          {s}
                        </button>
                      ))}
                      {t.loaded.length + t.shipments.length === 0 && <span className="quiet">nothing yet</span>}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {board.leaving.length === 0 ? (
            <p className="empty">
              Nothing is to leave. Orders are released on{' '}
              <Link className="link" to={`/release?world=${world}`}>
                Release
              </Link>
              .
            </p>
          ) : (
            <table className="plain rows" aria-label="Shipments">
              <thead>
                <tr>
                  <th>Shipment</th>
                  <th>For</th>
                  <th>Leaves</th>
                  <th>How far</th>
                </tr>
              </thead>
              <tbody>
                {board.leaving.map((s) => (
                  <tr key={s.shipment} aria-current={s.shipment === one ? 'true' : undefined}>
                    <td>
                      <button className="link code" onClick={() => show(s.shipment)}>
                        {s.shipment}
                      </button>
                      <div className="quiet">{s.orders.join(', ')}</div>
                    </td>
                    <td>
                      {s.partner}
                      <div className="quiet">{s.town}</div>
                    </td>
                    <td>
                      <span style={{ whiteSpace: 'nowrap' }}>{s.day}</span>
                      <div className="quiet">{[s.carrier, s.service].filter(Boolean).join(', ') || 'no carrier'}</div>
                    </td>
                    <td>
                      <Far of={s} />
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {board.gone.length > 0 && (
            <>
              <h2>Has left</h2>
              <table className="plain rows" aria-label="Shipments that have left">
                <tbody>
                  {board.gone.map((g) => (
                    <tr key={g.shipment} aria-current={g.shipment === one ? 'true' : undefined}>
                      <td>
                        <button className="link code" onClick={() => show(g.shipment)}>
                          {g.shipment}
                        </button>
                        <div className="quiet">{g.orders.join(', ')}</div>
                      </td>
                      <td>{g.partner}</td>
                      <td>
                        {when(g.at)}
                        <div className="quiet">{g.carrier}</div>
                      </td>
                      <td>
                        <span className={`mark ${g.stands === 'booked' ? 'holds' : 'doubt'}`}>
                          {g.stands === 'booked' ? '✓ booked by the host' : `◌ ${g.stands}`}
                        </span>
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </>
          )}
        </>
      )}
    </Board>
  )
}

/** The steps of a shipment as small bars, each with a number and a word; what keeps it, named. */
export function Far({ of }: { of: Leaving }) {
  return (
    <>
      <div className="far">
        {of.steps.map((s) => (
          <span key={s.stop} className={s.done === s.of && s.of > 0 ? 'whole' : ''}>
            <i>
              <b style={{ width: `${s.of ? (s.done * 100) / s.of : 0}%` }} />
            </i>
            {s.done === s.of && s.of > 0 ? `✓ ${WORD[s.stop]}` : `${s.done} of ${s.of} ${WORD[s.stop]}`}
          </span>
        ))}
      </div>
      {of.may_go ? (
        <span className="mark holds">✓ may leave</span>
      ) : (
        of.missing && (
          <div className="quiet">
            <Told text={of.missing} />
          </div>
        )
      )}
    </>
  )
}
