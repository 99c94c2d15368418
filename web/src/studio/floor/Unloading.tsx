import Button from '@mui/material/Button'
import { useState } from 'react'
import type { Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { ActHead, Entry, Tick } from '../parts/controls'
import { Sheet } from '../parts/Sheet'
import { Coming } from './Coming'
import { Refused, type Tell, Why } from './InOffice'
import { age, type Shown } from './lists'
import { Reasoned } from './Reasoned'

const none = 'Nothing waits to be unloaded. Orders wait here whose step plan unloads them at the door.'
const plates = (n: number) => (n === 1 ? '1 plate announced' : `${n} plates announced`)

/** Orders that come by a plan that unloads, and have not come off yet. */
export function ToUnload({ view, tell }: Shown) {
  const [order, setOrder] = useState('')
  const rows = view.lists.to_unload
  if (rows.length === 0) return <p className="empty">{none}</p>
  const row = rows.find((r) => r.order === order)
  return (
    <>
      <Coming
        rows={rows}
        also="Announced"
        says={(o) => o.plates.length > 0 && plates(o.plates.length)}
        does="Unload"
        doIt={tell && setOrder}
      />
      {row && tell && (
        <UnloadForm key={order} row={row} scanned={view.scanned.unload ?? []} tell={tell} close={() => setOrder('')} />
      )}
    </>
  )
}

/** Says in the office what came off: which of the announced plates, and how many others. */
function UnloadForm({
  row,
  scanned,
  tell,
  close,
}: {
  row: Shape['ToUnload']
  scanned: string[]
  tell: Tell
  close: () => void
}) {
  const [off, setOff] = useState<string[]>([])
  const [count, setCount] = useState('')
  const [at, setAt] = useState('')
  const [truck, setTruck] = useState('')
  const [why, setWhy] = useState('')
  const [refused, setRefused] = useState('')
  const others = Math.round(Number(count)) || 0
  const set = (plate: string, came: boolean) => setOff(came ? [...off, plate] : off.filter((p) => p !== plate))
  return (
    <Sheet open onClose={close} label={`Unload ${row.order}`} fullWidth maxWidth="sm">
      <form
        style={{ padding: 20 }}
        onSubmit={(e) => {
          e.preventDefault()
          void tell({
            kind: 'unload_in_office',
            order: row.order,
            plates: off,
            count: others,
            at: at.trim().toUpperCase() || null,
            truck: truck.trim().toUpperCase() || null,
            why: why.trim(),
          }).then((no) => {
            if (no) return setRefused(no)
            close()
          })
        }}
      >
        <h2 style={{ marginTop: 0 }}>
          What of <span className="code">{row.order}</span> came off?
        </h2>
        {row.plates.map((plate) => (
          <label key={plate} style={{ display: 'block' }}>
            <Tick checked={off.includes(plate)} onChange={(e) => set(plate, e.target.checked)} /> Announced plate{' '}
            <span className="code">{plate}</span>
          </label>
        ))}
        <label className="field">
          <span>{row.plates.length > 0 ? 'Other pallets and packages' : 'Pallets and packages'}</span>
          <Entry
            type="number"
            min={0}
            max={999}
            style={{ width: 96 }}
            placeholder="none"
            value={count}
            onChange={(e) => setCount(e.target.value)}
          />
        </label>
        <label className="field">
          <span>Truck, if it is expected here</span>
          <Entry value={truck} maxLength={20} onChange={(e) => setTruck(e.target.value)} placeholder="none named" />
        </label>
        <label className="field">
          <span>Set down in</span>
          <Entry
            value={at}
            maxLength={20}
            onChange={(e) => setAt(e.target.value)}
            placeholder={row.at ?? 'where the step plan or the truck says'}
          />
        </label>
        <Why scanned={scanned} why={why} set={setWhy} />
        <Refused says={refused} />
        <div className="form">
          <Button
            type="submit"
            variant="contained"
            disabled={(off.length === 0 && others < 1) || (scanned.length > 0 && why.trim().length < 3)}
          >
            It came off
          </Button>
          <Button onClick={close}>Close</Button>
          <span className="quiet">It is no stock yet, and may then be received.</span>
        </div>
      </form>
    </Sheet>
  )
}

/** What was unloaded and is not received yet. */
export function AtDoor({ view, act, closes }: Shown) {
  const [picked, setPicked] = useState('')
  const rows = view.lists.at_door
  if (rows.length === 0) return <p className="empty">Nothing stands at a door that was unloaded and not received.</p>
  return (
    <>
      <table className="plain">
        <thead>
          <tr>
            <th>Unloading</th>
            <th>Order</th>
            <th>From</th>
            <th>What came off</th>
            <th>Stands in</th>
            <th>Not received yet</th>
            <th>Unloaded</th>
            <th>By</th>
            {act && closes && <ActHead />}
          </tr>
        </thead>
        <tbody>
          {rows.map((u) => (
            <tr key={u.unloading}>
              <td className="mono">{u.unloading}</td>
              <td className="mono">{u.order}</td>
              <td>{u.partner}</td>
              <td>
                {u.what}
                {u.truck && <span className="quiet"> off truck {u.truck}</span>}
              </td>
              <td className="mono">{u.at}</td>
              <td>{u.still}</td>
              <td>{age(view, u.seq)}</td>
              <td>
                <Told text={`@${u.by}`} />
              </td>
              {act && closes && (
                <td>
                  <Button onClick={() => setPicked(u.unloading)} aria-label={`Nothing more of ${u.unloading}`}>
                    Nothing more of it
                  </Button>
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
      <Reasoned
        open={!!picked && !!act}
        title={
          <>
            Nothing more of <span className="code">{picked}</span> is to be received
          </>
        }
        label={`Nothing more of ${picked}`}
        says="It leaves this list. What of its order comes later is unloaded anew."
        does="Take it off the list"
        done={(why) => act?.({ kind: 'end_unloading', unloading: picked, why })}
        close={() => setPicked('')}
      />
    </>
  )
}
