import Button from '@mui/material/Button'
import { useState } from 'react'
import type { Shape } from '../../shared/client'
import { Sheet } from '../parts/Sheet'
import { Entry, Pick } from '../parts/controls'

type Act = Shape['CommandBody']['act']

/** What the office and the host's user can do; only in a rehearsal time passes at a word. */
export function Office({
  world,
  live,
  may,
  act,
}: {
  world: Shape['WorldView']
  live: boolean
  may: (kind: string) => boolean
  act: (act: Act) => void
}) {
  const [open, setOpen] = useState(false)
  const [bin, setBin] = useState('')
  const [reason, setReason] = useState('')
  const [minutes, setMinutes] = useState('10')
  const done = (what: Act) => {
    act(what)
    setOpen(false)
  }
  const toBook = world.changes.receipts.filter((r) => !r.told)
  return (
    <>
      <Pick
        aria-label="Confirm an order"
        value=""
        disabled={!may('confirm_order')}
        onChange={(e) => act({ kind: 'confirm_order', order: e.target.value })}
      >
        <option value="" disabled>
          Host: confirm an order
        </option>
        {world.to_confirm.map((o) => (
          <option key={o} value={o}>
            {o}
          </option>
        ))}
      </Pick>
      <Button onClick={() => setOpen(true)}>Office</Button>
      <Sheet open={open} onClose={() => setOpen(false)} label="Office" fullWidth maxWidth="sm">
        <div style={{ padding: 20 }}>
          <h2 style={{ marginTop: 0 }}>What the office does</h2>
          <form
            className="form"
            hidden={!may('block_bin')}
            onSubmit={(e) => {
              e.preventDefault()
              done({ kind: 'block_bin', bin: bin.trim().toUpperCase(), reason: reason.trim() })
            }}
          >
            <Entry aria-label="Bin" placeholder="bin" value={bin} onChange={(e) => setBin(e.target.value)} required />
            <Entry
              aria-label="Reason"
              placeholder="why it is blocked; empty frees it"
              style={{ flex: 1 }}
              value={reason}
              onChange={(e) => setReason(e.target.value)}
            />
            <Button type="submit">{reason.trim() ? 'Block the bin' : 'Free the bin'}</Button>
          </form>
          {!live && (
            <form
              className="form"
              onSubmit={(e) => {
                e.preventDefault()
                done({ kind: 'wait', seconds: Math.round(Number(minutes) * 60) })
              }}
            >
              <Entry
                aria-label="Minutes"
                type="number"
                min="1"
                style={{ width: 80 }}
                value={minutes}
                onChange={(e) => setMinutes(e.target.value)}
              />
              <Button type="submit">minutes pass</Button>
            </form>
          )}
          {world.changes.building.map((p) => (
            <div key={p.plate} className="form">
              <span className="code">{p.plate}</span>
              <span className="quiet" style={{ flex: 1 }}>
                {p.content}
              </span>
              <Button
                disabled={!may('finish_plate')}
                onClick={() => done({ kind: 'finish_plate', plate: p.plate, inspect: null, book: null })}
              >
                Finish this plate
              </Button>
            </div>
          ))}
          {toBook.map((r) => (
            <div key={r.number} className="form">
              <span className="code">{r.number}</span>
              <span style={{ flex: 1 }} className="quiet">
                arrived, the host does not know
              </span>
              <Button disabled={!may('book_receipt')} onClick={() => done({ kind: 'book_receipt', receipt: r.number })}>
                Tell the host
              </Button>
            </div>
          ))}
        </div>
      </Sheet>
    </>
  )
}
