import Button from '@mui/material/Button'
import { type ReactNode, useState } from 'react'
import { Entry, Pick } from '../parts/controls'
import { Sheet } from '../parts/Sheet'

/** Something the office does that needs a reason: what it does, with what it asks besides, and why it is done: one of the reasons of the
 * rulebook, if it has some for that, or in words. */
export function Reasoned({
  open,
  title,
  label,
  says,
  does,
  done,
  close,
  ready = true,
  reasons = [],
  optional = false,
  children,
}: {
  open: boolean
  title: ReactNode
  label: string
  says: string
  does: string
  done: (why: string, reason: string | null) => void
  close: () => void
  ready?: boolean
  reasons?: { id: string; name: string }[]
  /** It may be done without saying why. */
  optional?: boolean
  children?: ReactNode
}) {
  const [why, setWhy] = useState('')
  const [chosen, setChosen] = useState('')
  const reason = reasons.some((r) => r.id === chosen) ? chosen : null
  return (
    <Sheet open={open} onClose={close} label={label} fullWidth maxWidth="sm">
      <form
        style={{ padding: 20 }}
        onSubmit={(e) => {
          e.preventDefault()
          done(why.trim(), reason)
          setWhy('')
          close()
        }}
      >
        <h2 style={{ marginTop: 0 }}>{title}</h2>
        <p>{says}</p>
        {children}
        {reasons.length > 0 && (
          <label className="field">
            <span>Reason</span>
            <Pick value={reason ?? ''} onChange={(e) => setChosen(e.target.value)}>
              <option value="">in words</option>
              {reasons.map((r) => (
                <option key={r.id} value={r.id}>
                  {r.name}
                </option>
              ))}
            </Pick>
          </label>
        )}
        <label className="field">
          <span>{reason || optional ? 'And in words, if need be' : 'Why, for the log'}</span>
          <Entry value={why} maxLength={120} onChange={(e) => setWhy(e.target.value)} />
        </label>
        <div className="form">
          <Button
            type="submit"
            variant="contained"
            disabled={!ready || (!reason && why.trim().length < 3 && !(optional && !why.trim()))}
          >
            {does}
          </Button>
          <Button onClick={close}>Close</Button>
        </div>
      </form>
    </Sheet>
  )
}
