import Button from '@mui/material/Button'
import { type ReactNode, useState } from 'react'
import { Entry } from '../parts/controls'
import { Sheet } from '../parts/Sheet'

/** Something the office does that needs a reason: what it does, with what it asks besides, and why it is done. */
export function Reasoned({
  open,
  title,
  label,
  says,
  does,
  done,
  close,
  ready = true,
  children,
}: {
  open: boolean
  title: ReactNode
  label: string
  says: string
  does: string
  done: (why: string) => void
  close: () => void
  ready?: boolean
  children?: ReactNode
}) {
  const [why, setWhy] = useState('')
  return (
    <Sheet open={open} onClose={close} label={label} fullWidth maxWidth="sm">
      <form
        style={{ padding: 20 }}
        onSubmit={(e) => {
          e.preventDefault()
          done(why.trim())
          setWhy('')
          close()
        }}
      >
        <h2 style={{ marginTop: 0 }}>{title}</h2>
        <p>{says}</p>
        {children}
        <label className="field">
          <span>Why, for the log</span>
          <Entry value={why} maxLength={120} onChange={(e) => setWhy(e.target.value)} />
        </label>
        <div className="form">
          <Button type="submit" variant="contained" disabled={!ready || why.trim().length < 3}>
            {does}
          </Button>
          <Button onClick={close}>Close</Button>
        </div>
      </form>
    </Sheet>
  )
}
