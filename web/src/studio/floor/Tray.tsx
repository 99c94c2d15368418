import Button from '@mui/material/Button'
import { useQuery } from '@tanstack/react-query'
import { useState, type ReactNode } from 'react'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { when } from '../../shared/when'
import { ActHead, Entry, Pick } from '../parts/controls'
import { PaperLeaf } from '../parts/PaperLeaf'
import { Skeleton } from '../parts/Skeleton'

type Act = Shape['CommandBody']['act']
type View = Shape['TrayView']
type Sent = Shape['PrintView']

const CONDITIONS: [Shape['PrinterView']['condition'], string][] = [
  ['ready', 'ready'],
  ['slow', 'slow'],
  ['no_paper', 'without paper'],
  ['off', 'does not answer'],
]

/** What came out of the printers of a floor and what waits, asked again as the floor moves. */
export function useTray(world: string, seq?: number) {
  return useQuery({
    queryKey: ['world', world, 'prints', seq],
    enabled: !!world,
    placeholderData: (before: View | undefined) => before,
    queryFn: () => got(client.GET('/api/worlds/{id}/prints', { params: { path: { id: world } } })),
  })
}

/** The printers of a floor, how each is, and what lies in their tray. */
export function Tray({
  world,
  seq,
  act,
  set,
  small = false,
  pin,
}: {
  world: string
  seq?: number
  /** Not for those who only look. */
  act?: (act: Act) => void
  /** Who may say how the stand-ins are. */
  set?: (act: Act) => void
  /** Beside a desk: without what is printed from here. */
  small?: boolean
  pin?: (e: Shape['PinBody']['expectation']) => void
}) {
  const view = useTray(world, seq)
  const [shown, setShown] = useState('')
  if (view.error) return <p className="empty">{view.error.message}</p>
  if (!view.data) return <Skeleton />
  const { printers, prints } = view.data
  const sent = small ? prints.slice(0, 5) : prints
  return (
    <>
      {printers.length === 0 ? (
        <p className="empty">This site has no printer. Make one in the Catalogue, under Printers.</p>
      ) : (
        <Folded small={small} says={stopped(printers)}>
          <table className="plain" aria-label="Printers">
            <thead>
              <tr>
                <th>Printer</th>
                {!small && <th>Prints for</th>}
                {!small && <th>Takes</th>}
                <th>It is</th>
                <th style={{ textAlign: 'right' }}>waiting</th>
              </tr>
            </thead>
            <tbody>
              {printers.map((p) => (
                <tr key={p.code}>
                  <td style={small ? { width: '100%' } : undefined}>
                    <span className="code">{p.code}</span>
                    {!small && ` ${p.name}`}
                    {p.real && <div className="quiet">a real one: {p.real}</div>}
                    {p.failed && (
                      <div>
                        <span className="mark doubt">… takes nothing</span> {p.failed}
                      </div>
                    )}
                  </td>
                  {!small && (
                    <td className="quiet">
                      {[...p.zones, ...p.handsets.map((h) => `handset ${h}`)].join(', ') || 'whoever scans its code'}
                    </td>
                  )}
                  {!small && (
                    <td className="quiet">
                      {p.takes_pages ? 'pages' : 'labels'} of {p.width_mm} × {p.height_mm} mm
                    </td>
                  )}
                  <td>
                    <Pick
                      style={{ minWidth: 130 }}
                      aria-label={`${p.code} is`}
                      value={p.condition}
                      disabled={!set}
                      onChange={(e) =>
                        set?.({
                          kind: 'set_printer',
                          printer: p.code,
                          condition: e.target.value as Shape['PrinterView']['condition'],
                        })
                      }
                    >
                      {CONDITIONS.map(([value, says]) => (
                        <option key={value} value={value}>
                          {says}
                        </option>
                      ))}
                    </Pick>
                  </td>
                  <td style={{ textAlign: 'right' }}>{p.waiting || ''}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Folded>
      )}
      {!small && act && <PrintHere act={act} printers={printers} />}
      <h2>
        {small ? 'Printed' : 'The tray'}{' '}
        <small className="quiet">{small ? 'the latest of it' : kept(prints.length, view.data.sent)}</small>
      </h2>
      {prints.length === 0 ? (
        <p className={small ? 'quiet' : 'empty'}>Nothing was printed yet.</p>
      ) : (
        <table className="plain" aria-label="Printed">
          <thead>
            <tr>
              <th>What</th>
              <th style={{ textAlign: 'right' }}>times</th>
              {!small && <th>Printer</th>}
              <th>State</th>
              {!small && <th>Sent</th>}
              <ActHead />
            </tr>
          </thead>
          <tbody>
            {sent.map((p) => (
              <Row
                key={p.number}
                sent={p}
                world={world}
                printers={printers}
                act={act}
                small={small}
                pin={pin && (() => pin(expected(p, prints)))}
                open={shown === p.number}
                show={() => setShown(shown === p.number ? '' : p.number)}
              />
            ))}
          </tbody>
        </table>
      )}
    </>
  )
}

/** That so many labels of a thing came out on its printer, or wait there, as it is now. */
function expected(of: Sent, among: Sent[]): Shape['PinBody']['expectation'] {
  const alike = among.filter((p) => p.code === of.code && p.printer === of.printer && p.out === of.out)
  const count = alike.reduce((n, p) => n + p.count, 0)
  return { kind: 'labels', code: { kind: 'text', text: of.code }, count, printer: of.printer, waiting: !of.out }
}

function kept(shown: number, sent: number): string {
  if (shown < sent) return `the latest ${shown} of ${sent.toLocaleString()}; what waits is kept, however much`
  return 'the latest first; of what came out two hundred are kept'
}

/** How the printers are, in a line. */
function stopped(printers: View['printers']): string {
  const not = printers.filter((p) => p.condition !== 'ready')
  const told = not.map((p) => `${p.code} ${CONDITIONS.find(([value]) => value === p.condition)?.[1]}`)
  return told.length ? told.join(', ') : 'all ready'
}

function Folded({ small, says, children }: { small: boolean; says: string; children: ReactNode }) {
  if (!small) return children
  return (
    <details>
      <summary>
        Printers: <span className="quiet">{says}</span>
      </summary>
      {children}
    </details>
  )
}

function Row({
  sent,
  world,
  printers,
  act,
  small,
  pin,
  open,
  show,
}: {
  sent: Sent
  world: string
  printers: View['printers']
  act?: (act: Act) => void
  small: boolean
  pin?: () => void
  open: boolean
  show: () => void
}) {
  const [to, setTo] = useState(sent.printer)
  const waits = !sent.out && !sent.printed
  const path = `/api/worlds/${world}/prints/${sent.number}`
  return (
    <>
      <tr>
        <td style={{ width: small ? '100%' : '35%' }}>
          <Told text={sent.what} />
        </td>
        <td style={{ textAlign: 'right' }}>{sent.count}</td>
        {!small && (
          <td>
            {sent.printer ? <span className="code">{sent.printer}</span> : <span className="quiet">none</span>}
            {sent.rule && <div className="quiet">by {sent.rule}</div>}
          </td>
        )}
        <td>
          <StateOf sent={sent} waits={waits} />
        </td>
        {!small && (
          <td className="quiet">
            {when(sent.sent)}, <Told text={`@${sent.by}`} />
          </td>
        )}
        <td style={{ whiteSpace: 'nowrap' }}>
          {pin && (
            <>
              <button className="link" aria-label={`Pin the labels of ${sent.code}`} onClick={pin}>
                pin
              </button>{' '}
            </>
          )}
          <button className="link" aria-expanded={open} aria-label={`Look at ${sent.code}`} onClick={show}>
            {open ? 'close' : 'look'}
          </button>
        </td>
      </tr>
      {open && (
        <tr>
          <td colSpan={small ? 4 : 6}>
            <div className="labels">
              {sent.paper ? (
                <Pages world={world} number={sent.number} />
              ) : (
                <img src={`${path}/0/label.svg`} alt={`the label of ${sent.code}`} />
              )}
              <div>
                <p style={{ marginTop: 0 }}>
                  <a className="link" href={`${path}/labels.pdf`} target="_blank" rel="noreferrer">
                    All {sent.count > 1 ? sent.count : ''} as PDF
                  </a>
                </p>
                {act && (
                  <div className="form" style={{ margin: 0 }}>
                    <PrinterPick
                      label="On printer"
                      none={sent.printer ? '' : 'choose a printer'}
                      printers={printers.filter((p) => p.takes_pages || !sent.paper)}
                      to={to}
                      set={setTo}
                    />
                    <Button
                      disabled={!to || (waits && to === sent.printer)}
                      onClick={() => act({ kind: 'print_again', number: sent.number, printer: to })}
                    >
                      {waits ? 'Print it there' : 'Print again'}
                    </Button>
                    {waits && (
                      <Button onClick={() => act({ kind: 'drop_print', number: sent.number })}>Do not print it</Button>
                    )}
                  </div>
                )}
              </div>
            </div>
          </td>
        </tr>
      )}
    </>
  )
}

/** The pages of a paper, the first of them. */
function Pages({ world, number }: { world: string; number: string }) {
  const view = useQuery({
    queryKey: ['print', world, number],
    queryFn: () =>
      got(client.GET('/api/worlds/{id}/prints/{number}/pages', { params: { path: { id: world, number } } })),
  })
  const pages = view.data?.pages ?? []
  return (
    <div style={{ flex: 1, minWidth: 0 }}>
      {pages.slice(0, 2).map((page, n) => (
        <PaperLeaf key={n} of={page} />
      ))}
      {pages.length > 2 && <p className="quiet">and {pages.length - 2} more pages.</p>}
    </div>
  )
}

/** Whether it came out: of a stand-in, or of the real printer it is for. */
function StateOf({ sent, waits }: { sent: Sent; waits: boolean }) {
  const owed = sent.handed === 'not_yet' || sent.handed === 'never'
  const says = owed ? '… not given yet' : sent.out ? '✓ out' : waits ? '… waits' : '… printing'
  return (
    <>
      <span className={`mark ${sent.out && !owed ? 'holds' : 'doubt'}`} style={{ whiteSpace: 'nowrap' }}>
        {sent.handed === 'never' ? '✕ not given' : says}
      </span>
      {waits && (
        <div className="quiet">
          <Told text={sent.why} />
        </div>
      )}
      {sent.handed === 'never' && <div className="quiet">{sent.not_given}</div>}
      {sent.handed === 'given' && <div className="quiet">given to the real printer</div>}
    </>
  )
}

/** One of the printers; or none, if that is called something. */
function PrinterPick({
  label,
  none,
  printers,
  to,
  set,
}: {
  label: string
  none: string
  printers: View['printers']
  to: string
  set: (printer: string) => void
}) {
  return (
    <Pick aria-label={label} value={to} onChange={(e) => set(e.target.value)}>
      {none && <option value="">{none}</option>}
      {printers.map((p) => (
        <option key={p.code} value={p.code}>
          {p.code}
        </option>
      ))}
    </Pick>
  )
}

const PRINTS = [
  ['plate', 'its label'],
  ['item', 'a label for each kind of goods on it'],
  ['unit', 'a label for each unit or piece on it'],
  ['packing_list', 'the packing lists of a shipment'],
  ['loading_list', 'the loading list of a shipment'],
  ['bill_of_lading', 'the bill of lading of a shipment'],
  ['pallet_sheets', 'the pallet sheets of a shipment'],
  ['pick_list', 'the list of a pick task'],
] as const

/** Prints the label of anything on the floor, or labels for plates to come. */
function PrintHere({ act, printers }: { act: (act: Act) => void; printers: View['printers'] }) {
  const [code, setCode] = useState('')
  const [prints, setPrints] = useState<(typeof PRINTS)[number][0]>('plate')
  const [copies, setCopies] = useState('1')
  const [count, setCount] = useState('10')
  const [to, setTo] = useState('')
  const printer = to || null
  return (
    <>
      <h2>Print</h2>
      <form
        className="form"
        onSubmit={(e) => {
          e.preventDefault()
          act({ kind: 'print_label', code: code.trim().toUpperCase(), prints, copies: Number(copies) || 1, printer })
          setCode('')
        }}
      >
        <Entry
          aria-label="What it is of"
          placeholder="plate, bin, item, shipment"
          value={code}
          onChange={(e) => setCode(e.target.value)}
        />
        <Pick aria-label="What is printed" value={prints} onChange={(e) => setPrints(e.target.value as typeof prints)}>
          {PRINTS.map(([value, says]) => (
            <option key={value} value={value}>
              {says}
            </option>
          ))}
        </Pick>
        <Entry
          aria-label="Copies"
          type="number"
          min={1}
          max={500}
          style={{ width: 90 }}
          value={copies}
          onChange={(e) => setCopies(e.target.value)}
        />
        <PrinterPick label="Printer" none="on the printer of its place" printers={printers} to={to} set={setTo} />
        <Button type="submit" variant="contained" disabled={!code.trim()}>
          Print
        </Button>
      </form>
      <form
        className="form"
        onSubmit={(e) => {
          e.preventDefault()
          act({ kind: 'print_numbers', count: Number(count) || 0, printer })
        }}
      >
        <Entry
          aria-label="How many plates to come"
          type="number"
          min={1}
          max={200}
          style={{ width: 90 }}
          value={count}
          onChange={(e) => setCount(e.target.value)}
        />
        <Button type="submit">labels for plates to come</Button>
        <span className="quiet">Their numbers are taken from the series, so nothing else gets them.</span>
      </form>
    </>
  )
}
