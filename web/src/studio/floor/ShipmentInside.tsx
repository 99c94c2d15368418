import Button from '@mui/material/Button'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { when } from '../../shared/when'
import { Pick } from '../parts/controls'
import { Skeleton } from '../parts/Skeleton'
import { Far } from './DockBoard'
import type { Act } from './lists'
import { Reasoned } from './Reasoned'

const PAPERS = [
  ['packing-list', 'packing_list', 'Packing list'],
  ['loading-list', 'loading_list', 'Loading list'],
  ['bill-of-lading', 'bill_of_lading', 'Bill of lading'],
  ['pallet-sheets', 'pallet_sheets', 'Pallet sheets'],
] as const

/** The papers of a shipment: each as PDF, printed or not yet, and whether it says what is so. */
function PapersOf(props: { path: string; printed: Shape['PaperPrinted'][]; print?: (what: Prints) => void }) {
  return (
    <table className="plain" aria-label="Papers" style={{ marginTop: 14 }}>
      <tbody>
        {PAPERS.map(([id, prints, name]) => {
          const last = props.printed.find((p) => p.paper === id)
          return (
            <tr key={id}>
              <td style={{ whiteSpace: 'nowrap' }}>
                <a className="link" href={`${props.path}/papers/${id}.pdf`} target="_blank" rel="noreferrer">
                  {name}
                </a>
              </td>
              <td style={{ width: '100%' }} className="quiet">
                {last && `printed ${when(last.sent)}${last.printer ? ` on ${last.printer}` : ', waits for a printer'} `}
                {last?.stale && <span className="mark doubt">▲ it says otherwise now</span>}
              </td>
              <td style={{ whiteSpace: 'nowrap' }}>
                {props.print && (
                  <button
                    className="link"
                    aria-label={`Print the ${name.toLowerCase()}`}
                    onClick={() => props.print?.(prints)}
                  >
                    {last ? 'print again' : 'print'}
                  </button>
                )}
              </td>
            </tr>
          )
        })}
      </tbody>
    </table>
  )
}

type Prints = (typeof PAPERS)[number][1]

/** What may be done with one carton or plate: off the truck again; onto a pallet with those it stands beside. */
function CartonActs(props: {
  of: Shape['CartonShown']
  all: Shape['CartonShown'][]
  act: (a: Act) => void
  may: (kind: string) => boolean
}) {
  const { of: carton, all, act, may } = props
  const [onto, setOnto] = useState('')
  const moved = carton.on ?? carton.number // what it stands on is what is moved
  if (carton.loaded)
    return may('take_off_truck') ? (
      <div className="form">
        <Button onClick={() => act({ kind: 'take_off_truck', what: moved })}>
          Take {carton.on ? `pallet ${carton.on}` : 'it'} off the truck
        </Button>
      </div>
    ) : null
  if (carton.on) return null
  const bears = all.some((c) => c.on === carton.number)
  if (!carton.at || bears || !may('stack_plates')) return null
  const pallets = [...new Set(all.filter((c) => c.on && c.at === carton.at).map((c) => c.on ?? ''))]
  return (
    <div className="form">
      <Pick aria-label={`Pallet for ${carton.number}`} value={onto} onChange={(e) => setOnto(e.target.value)}>
        <option value="">a new pallet</option>
        {pallets.map((p) => (
          <option key={p} value={p}>
            {p}
          </option>
        ))}
      </Pick>
      <Button onClick={() => act({ kind: 'stack_plates', plates: [carton.number], on: onto || null })}>
        Put it onto that
      </Button>
    </div>
  )
}

/** A shipment: its cartons with what is in each, where they stand, what carriers take; staged, loaded, sent off, taken back. */
export function ShipmentInside({
  world,
  number,
  act,
  may,
}: {
  world: string
  number: string
  act: (a: Act) => void
  may: (kind: string) => boolean
}) {
  const [back, setBack] = useState(false)
  const [door, setDoor] = useState('')
  const [other, setOther] = useState('')
  const view = useQuery({
    queryKey: ['world', world, 'shipment', number],
    placeholderData: keepPreviousData,
    queryFn: () =>
      got(client.GET('/api/worlds/{id}/shipments/{shipment}', { params: { path: { id: world, shipment: number } } })),
  })
  const dock = useQuery({
    queryKey: ['world', world, 'dock'],
    queryFn: () => got(client.GET('/api/worlds/{id}/dock', { params: { path: { id: world } } })),
  })
  if (view.error) return <p className="empty">{view.error.message}</p>
  if (!view.data) return <Skeleton />
  const { leaving, gone, cartons, loose, offers, no_offer: noOffer, lane, address } = view.data
  const trucks = dock.data?.trucks ?? []
  const truck = trucks.find((t) => t.truck === (door || leaving?.truck)) ?? trucks[0]
  const stop = leaving?.steps.find((s) => s.done < s.of)?.stop
  // what is past the station before may be loaded, also while the rest of it is not
  const before = leaving?.steps[leaving.steps.findIndex((s) => s.stop === 'load') - 1]
  const loads = stop === 'load' || (stop && before && before.done > 0 && before.stop !== 'pick')
  const carriers = [...new Set(offers.map((o) => o.carrier))]
  return (
    <>
      <h2>
        <span>
          Shipment <span className="code">{number}</span>
        </span>
        <small className="quiet">{address.join(', ')}</small>
      </h2>
      {leaving && <Far of={leaving} />}
      {gone && (
        <p>
          Left with {gone.carrier || 'no carrier'}: {gone.lines} {gone.lines === 1 ? 'line' : 'lines'}
          {gone.plates > 0 && `, ${gone.plates} ${gone.plates === 1 ? 'plate' : 'plates'}`}; {gone.stands}.
        </p>
      )}
      <PapersOf
        path={`/api/worlds/${world}/shipments/${number}`}
        printed={view.data.printed}
        print={
          may('print_label')
            ? (prints) => act({ kind: 'print_label', code: number, prints, copies: null, printer: null })
            : undefined
        }
      />
      {leaving && may('ship_shipment') && (
        <div className="form">
          {stop === 'stage' && lane && (
            <Button
              onClick={() =>
                act({
                  kind: 'stage_goods',
                  shipment: number,
                  bin: lane,
                  plates: [...new Set(cartons.filter((c) => c.at).map((c) => c.on ?? c.number))],
                  orders: [...new Set(loose.map((l) => l.order))],
                })
              }
            >
              Stage it in {lane}
            </Button>
          )}
          {loads && truck && (
            <>
              <Pick aria-label="Truck" value={truck.truck} onChange={(e) => setDoor(e.target.value)}>
                {trucks.map((t) => (
                  <option key={t.truck} value={t.truck}>
                    {t.truck}, {t.carrier || 'any carrier'}, {t.time}
                  </option>
                ))}
              </Pick>
              <Button
                onClick={() =>
                  act({
                    kind: 'load_goods',
                    shipment: number,
                    door: truck.door,
                    truck: truck.truck,
                    plates: [],
                    orders: [],
                    partly: stop !== 'load',
                  })
                }
              >
                {stop === 'load' ? 'Load all of it' : 'Load what is ready'}
              </Button>
            </>
          )}
          {leaving.ready && (
            <>
              <Pick aria-label="Who drives" value={other} onChange={(e) => setOther(e.target.value)}>
                <option value="">as it was meant{leaving.carrier && `: ${leaving.carrier}`}</option>
                {carriers.map((c) => (
                  <option key={c} value={c}>
                    {c}
                  </option>
                ))}
              </Pick>
              <Button
                variant="contained"
                onClick={() =>
                  act({ kind: 'ship_shipment', shipment: number, carrier: other || null, partly: !leaving.may_go })
                }
              >
                {leaving.may_go ? 'Ship it' : 'Ship what is ready'}
              </Button>
            </>
          )}
        </div>
      )}
      {gone && may('reverse_shipment') && gone.stands !== 'being taken back' && (
        <div className="form">
          <Button onClick={() => setBack(true)}>Take it back</Button>
        </div>
      )}
      <Reasoned
        open={back}
        title={`Take shipment ${number} back`}
        label="Take a shipment back"
        says="The host is asked. If it agrees, all of it stands again where it left from, kept for its orders."
        does="Ask the host"
        done={(why) => act({ kind: 'reverse_shipment', shipment: number, why })}
        close={() => setBack(false)}
      />
      <ul className="boxes" aria-label="Cartons and plates">
        {cartons.map((c) => (
          <li key={c.number}>
            <details>
              <summary>
                <b>{c.kind}</b> <span className="code">{c.number}</span>{' '}
                <span className="quiet">
                  {[c.stands, c.weight, c.loaded ? 'on the truck' : c.at, c.on && `on ${c.on}`, c.tracking]
                    .filter(Boolean)
                    .join(', ')}
                </span>
              </summary>
              <Contents of={c.content} />
              {leaving && <CartonActs of={c} all={cartons} act={act} may={may} />}
            </details>
          </li>
        ))}
      </ul>
      {loose.length > 0 && (
        <>
          <h3>Loose</h3>
          <Contents of={loose} />
        </>
      )}
      {leaving && (
        <>
          <h3>What carriers take for it</h3>
          {noOffer && (
            <p className="quiet">
              <Told text={noOffer} />
            </p>
          )}
          {leaving.booked && <p>Booked: {leaving.booked}</p>}
          {offers.length > 0 && (
            <table className="plain" aria-label="What carriers take">
              <tbody>
                {offers.map((o) => (
                  <tr key={`${o.carrier} ${o.service}`}>
                    <td>
                      <span className="code">{o.carrier}</span> {o.service}
                    </td>
                    <td className="mono" style={{ textAlign: 'right' }}>
                      {o.price ?? '–'}
                    </td>
                    <td className="quiet">
                      <Told text={o.says} />
                      {o.by_volume > 0 && `, ${o.by_volume} by size`}
                    </td>
                    <td>
                      {o.price && may('book_carriage') && !leaving.booked && (
                        <button
                          className="link"
                          aria-label={`Book ${o.carrier} ${o.service}`}
                          onClick={() =>
                            act({ kind: 'book_carriage', shipment: number, carrier: o.carrier, service: o.service })
                          }
                        >
                          Book
                        </button>
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {leaving.booked && may('drop_carriage') && (
            <button
              className="link"
              onClick={() => act({ kind: 'drop_carriage', shipment: number, why: 'booked otherwise' })}
            >
              Drop the booking
            </button>
          )}
        </>
      )}
    </>
  )
}

function Contents({ of }: { of: Shape['CartonContent'][] }) {
  return (
    <table className="plain">
      <tbody>
        {of.map((c, n) => (
          <tr key={`${c.order} ${c.line} ${c.lot} ${n}`}>
            <td className="mono" style={{ textAlign: 'right' }}>
              {c.much}
            </td>
            <td>
              {c.name}
              {(c.lot || c.serials.length > 0) && (
                <div className="quiet">{[c.lot && `lot ${c.lot}`, ...c.serials].filter(Boolean).join(', ')}</div>
              )}
            </td>
            <td>
              <span className="code">
                {c.order}/{c.line}
              </span>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}
