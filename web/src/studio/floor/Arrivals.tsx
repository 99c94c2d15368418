import Button from '@mui/material/Button'
import { useState } from 'react'
import { Told } from '../../shared/Told'
import { ReceiveForm } from './InOffice'
import { Coming } from './Coming'
import { InspectForm } from './InspectForm'
import { age, type Shown } from './lists'
import { Reasoned } from './Reasoned'
import { ActHead } from '../parts/controls'

/** Orders of which something may come now; the office receives what was not scanned. */
export function ToReceive({ view, world, tell, closes = false }: Shown) {
  const [order, setOrder] = useState('')
  const rows = view.lists.to_receive
  if (rows.length === 0) return <p className="empty">No confirmed order has anything open that a step plan receives.</p>
  return (
    <>
      <Coming rows={rows} also="Open lines" says={(o) => o.lines} does="Receive" doIt={tell && setOrder} />
      {order && tell && (
        <ReceiveForm
          world={world}
          order={order}
          scanned={view.scanned.receive ?? []}
          closes={closes}
          tell={tell}
          close={() => setOrder('')}
        />
      )}
    </>
  )
}

/** Goods that stop at an inspection: where, and how much of them is looked at. */
export function ToInspect({ view, tell }: Shown) {
  const [task, setTask] = useState('')
  const rows = view.lists.to_inspect
  if (rows.length === 0) return <p className="empty">Nothing waits to be inspected.</p>
  const [first, ...others] = rows.filter((r) => r.task === task)
  return (
    <>
      <table className="plain">
        <thead>
          <tr>
            <th>Task</th>
            <th>Plate</th>
            <th>Now in</th>
            <th>Item</th>
            <th>Lot</th>
            <th>Waits</th>
            <th>Looked at</th>
            {tell && <ActHead />}
          </tr>
        </thead>
        <tbody>
          {rows.map((r, n) => (
            <tr key={`${r.task} ${r.item} ${r.lot} ${n}`}>
              <td className="mono">{r.task}</td>
              <td className="mono">{r.plate ?? 'loose'}</td>
              <td className="mono">{r.at}</td>
              <td>
                <span className="code">{r.item}</span> {r.name}
              </td>
              <td className="mono">{r.lot}</td>
              <td>
                {r.quantity.toLocaleString('en')} {r.unit}
              </td>
              <td>{r.looked_at < r.quantity ? `${r.looked_at.toLocaleString('en')} of them` : 'all'}</td>
              {tell && (
                <td>
                  {rows.findIndex((x) => x.task === r.task) === n && (
                    <Button onClick={() => setTask(r.task)} aria-label={`Inspect ${r.task}`}>
                      Say how they are
                    </Button>
                  )}
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
      {first && tell && (
        <InspectForm
          key={task}
          first={first}
          others={others}
          scanned={view.scanned.inspect ?? []}
          tell={tell}
          close={() => setTask('')}
        />
      )}
    </>
  )
}

/** Plates and receipts that were begun and never finished. */
export function Unfinished({ view, act }: Shown) {
  const rows = view.lists.unfinished
  if (rows.length === 0) return <p className="empty">Every plate that was begun is finished.</p>
  return (
    <table className="plain">
      <thead>
        <tr>
          <th>Plate</th>
          <th>By</th>
          <th>On it</th>
          <th>In bin</th>
          <th>Begun</th>
          {act && <ActHead />}
        </tr>
      </thead>
      <tbody>
        {rows.map((p) => (
          <tr key={p.number}>
            <td className="mono">{p.number}</td>
            <td>{p.by && <Told text={`@${p.by}`} />}</td>
            <td>{p.what}</td>
            <td className="mono">{p.at}</td>
            <td>{age(view, p.seq)}</td>
            {act && (
              <td>
                <Button onClick={() => act({ kind: 'finish_plate', plate: p.number, inspect: null, book: null })}>
                  Finish it
                </Button>
              </td>
            )}
          </tr>
        ))}
      </tbody>
    </table>
  )
}

/** Arrivals that the host has not booked, and why. */
export function NotBooked({ view, act }: Shown) {
  const [back, setBack] = useState('')
  const rows = view.lists.not_booked
  if (rows.length === 0) return <p className="empty">The host has booked everything that arrived.</p>
  return (
    <>
      <table className="plain">
        <thead>
          <tr>
            <th>Receipt</th>
            <th>Order</th>
            <th>What</th>
            <th>Arrived</th>
            <th>Why it is not booked</th>
            {act && <ActHead />}
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr key={r.receipt}>
              <td className="mono">{r.receipt}</td>
              <td className="mono">{r.order}</td>
              <td>{r.what}</td>
              <td>{age(view, r.seq)}</td>
              <td>
                <Told text={r.why} />
              </td>
              {act && (
                <td>
                  {r.may_tell && (
                    <Button onClick={() => act({ kind: 'book_receipt', receipt: r.receipt })}>Book it now</Button>
                  )}
                  {r.held && (
                    <span style={{ display: 'flex', gap: 6 }}>
                      <Button
                        onClick={() => act({ kind: 'take_surplus', receipt: r.receipt, why: '' })}
                        aria-label={`Take ${r.receipt}`}
                      >
                        Take it
                      </Button>
                      <Button onClick={() => setBack(r.receipt)} aria-label={`Send ${r.receipt} back`}>
                        Send it back
                      </Button>
                    </span>
                  )}
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
      <Reasoned
        open={!!back && !!act}
        title={
          <>
            Send back what <span className="code">{back}</span> holds
          </>
        }
        label={`Send ${back} back`}
        says="It leaves the stock, and the host never hears of it."
        does="Send it back"
        done={(why) => act?.({ kind: 'send_surplus_back', receipt: back, why })}
        close={() => setBack('')}
      />
    </>
  )
}

/** Announced plates that are not here. */
export function Expected({ view }: Shown) {
  const rows = view.lists.expected
  if (rows.length === 0) return <p className="empty">No plate is announced that is not here.</p>
  return (
    <table className="plain">
      <thead>
        <tr>
          <th>Plate</th>
          <th>Notice</th>
          <th>Order</th>
          <th>From</th>
          <th>On it</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((p) => (
          <tr key={p.plate}>
            <td className="mono">{p.plate}</td>
            <td className="mono">{p.notice}</td>
            <td className="mono">{p.order}</td>
            <td>{p.partner}</td>
            <td>{p.what}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

/** Transfers that the other site has sent. */
export function Transfers({ view }: Shown) {
  const rows = view.lists.transfers
  if (rows.length === 0) return <p className="empty">No other site has sent something that has not come.</p>
  return (
    <table className="plain">
      <thead>
        <tr>
          <th>Transfer</th>
          <th>From</th>
          <th>Still to come</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((t) => (
          <tr key={t.order}>
            <td className="mono">{t.order}</td>
            <td>{t.partner}</td>
            <td>{t.lines === 1 ? '1 line' : `${t.lines} lines`}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}
