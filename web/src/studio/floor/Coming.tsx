import Button from '@mui/material/Button'
import type { ReactNode } from 'react'
import { ActHead } from '../parts/controls'

type Row = { order: string; called: string; partner: string; promised: string; plan: string }

/** Orders of which something may come, with one thing more of each, and what the office does about it. */
export function Coming<R extends Row>({
  rows,
  also,
  says,
  does,
  doIt,
}: {
  rows: R[]
  also: string
  says: (row: R) => ReactNode
  does: string
  doIt?: (order: string) => void
}) {
  return (
    <table className="plain">
      <thead>
        <tr>
          <th>Order</th>
          <th>Kind</th>
          <th>From</th>
          <th>Promised</th>
          <th>{also}</th>
          <th>Step plan</th>
          {doIt && <ActHead />}
        </tr>
      </thead>
      <tbody>
        {rows.map((o) => (
          <tr key={o.order}>
            <td className="mono">{o.order}</td>
            <td>{o.called}</td>
            <td>{o.partner}</td>
            <td>{o.promised}</td>
            <td>{says(o)}</td>
            <td>{o.plan}</td>
            {doIt && (
              <td>
                <Button onClick={() => doIt(o.order)} aria-label={`${does} ${o.order}`}>
                  {does}
                </Button>
              </td>
            )}
          </tr>
        ))}
      </tbody>
    </table>
  )
}
