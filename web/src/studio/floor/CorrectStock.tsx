import { useState } from 'react'
import type { Shape } from '../../shared/client'
import { Entry, Pick } from '../parts/controls'
import type { Act } from './lists'
import { Reasoned } from './Reasoned'

const STATUSES = [
  ['available', 'available'],
  ['quarantine', 'in quarantine'],
  ['damaged', 'damaged'],
  ['expired', 'expired'],
] as const
type Status = (typeof STATUSES)[number][0]

/** Stock as it is, whatever the books say: set to another number, or to another status, with a reason. */
export function CorrectStock(props: {
  of: Shape['StockLine']
  act: (a: Act) => void
  adjust: boolean
  change: boolean
  reasons: Shape['ReasonChoice'][]
  close: () => void
}) {
  const { of: row, act, adjust, change, reasons, close } = props
  const [does, setDoes] = useState<'set' | 'status' | 'lot' | 'place' | 'plate'>(adjust ? 'set' : 'status')
  const [much, setMuch] = useState(String(row.quantity))
  const [status, setStatus] = useState<Status>(row.status === 'available' ? 'quarantine' : 'available')
  const [gone, setGone] = useState('')
  const [to, setTo] = useState('')
  const numbered = row.serials.length > 0
  const quantity = Number(much)
  const whole = /^\d{1,9}$/.test(much.trim())
  const plate = row.plate || null
  const elsewhere = does === 'place' || does === 'plate'
  const used = does === 'set' ? 'number' : elsewhere ? 'place' : 'status'
  const done = (why: string, reason: string | null) => {
    if (does === 'set')
      act({
        kind: 'adjust_stock', bin: row.bin, item: row.item, quantity, why, lot: row.lot, plate, status: row.status as Shape['AdjustStock']['status'],
        serials: gone.split(/[\s,;]+/).filter(Boolean), reason, photo: '',
      }) // prettier-ignore
    else if (does === 'place' || does === 'plate')
      act({
        kind: 'shift_stock', bin: row.bin, to: to.trim().toUpperCase(), why, item: does === 'plate' ? null : row.item, plate, lot: row.lot,
        quantity: does === 'plate' ? null : quantity, status: row.status as Shape['AdjustStock']['status'],
        serials: does === 'plate' ? [] : gone.split(/[\s,;]+/).filter(Boolean), reason, photo: '',
      }) // prettier-ignore
    else
      act({
        kind: 'change_status', status, why, item: row.item, lot: row.lot, was: does === 'status' ? (row.status as Status) : null,
        bin: does === 'lot' || plate ? null : row.bin, plate: does === 'lot' ? null : plate, loose: !plate, reason, photo: '',
      }) // prettier-ignore
  }
  return (
    <Reasoned
      open
      close={close}
      label={`Correct ${row.item}`}
      title={
        <>
          {row.name} in <span className="code">{row.bin}</span>
        </>
      }
      says={`By the books ${row.told}, ${row.status}${row.lot ? `, lot ${row.lot}` : ''}${row.plate ? `, on ${row.plate}` : ''}. What is kept of it for orders is given up if need be, and said.`}
      does={does === 'set' ? 'Set it' : elsewhere ? 'It lies there' : 'Change it'}
      ready={
        elsewhere
          ? to.trim() !== '' && (does === 'plate' || (whole && quantity > 0 && quantity <= row.quantity))
          : does !== 'set' || (whole && quantity !== row.quantity)
      }
      done={done}
      reasons={reasons.filter((r) => r.used === 'both' || r.used === used)}
    >
      <label className="field">
        <span>What is wrong</span>
        <Pick value={does} onChange={(e) => setDoes(e.target.value as typeof does)}>
          {adjust && <option value="set">how many there are</option>}
          {adjust && <option value="place">where it lies</option>}
          {adjust && row.plate && <option value="plate">where the whole plate stands</option>}
          {change && <option value="status">its status, here</option>}
          {change && row.lot && <option value="lot">the status of the lot, wherever it lies</option>}
        </Pick>
      </label>
      {elsewhere && (
        <label className="field">
          <span>{does === 'plate' ? 'It stands in bin' : 'In bin'}</span>
          <Entry value={to} maxLength={40} onChange={(e) => setTo(e.target.value)} />
        </label>
      )}
      {does === 'plate' ? null : does === 'set' || does === 'place' ? (
        <>
          <label className="field">
            <span>{does === 'place' ? 'So many lie there, in base units' : 'There are, in base units'}</span>
            <Entry value={much} inputMode="numeric" maxLength={9} onChange={(e) => setMuch(e.target.value)} />
          </label>
          {numbered && (
            <label className="field">
              <span>{does === 'place' ? 'Their numbers' : 'Numbers of those that are gone'}</span>
              <Entry value={gone} maxLength={400} onChange={(e) => setGone(e.target.value)} />
            </label>
          )}
        </>
      ) : (
        <label className="field">
          <span>It is</span>
          <Pick value={status} onChange={(e) => setStatus(e.target.value as Status)}>
            {STATUSES.filter(([s]) => s !== row.status).map(([s, says]) => (
              <option key={s} value={s}>
                {says}
              </option>
            ))}
          </Pick>
        </label>
      )}
    </Reasoned>
  )
}
