import type { GridColDef } from '@mui/x-data-grid'
import { Link } from 'react-router'
import type { Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { when } from '../../shared/when'
import { Grid, type useRows } from '../parts/Grid'

type Act = Shape['CommandBody']['act']
type View = Shape['HostView']
type Message = Shape['MessageView']
const STATES = {
  waiting: ['◌', 'info', 'waits'],
  answered: ['●', 'holds', 'accepted'],
  refused: ['✕', 'fails', 'refused'],
  given_up: ['✕', 'fails', 'given up'],
} as const

/** The messages between host and floor, the latest first, a page at a time. */
export function MessageLog({
  h,
  picked,
  pick,
  may,
  act,
  world,
  at,
}: {
  h: View
  at: ReturnType<typeof useRows>
  picked: string
  pick: (n: string) => void
  may: boolean
  act: (a: Act) => void
  world: string
}) {
  const columns: GridColDef<Message>[] = [
    {
      field: 'number',
      headerName: 'Message',
      width: 104,
      renderCell: ({ row: m, tabIndex }) => (
        <button className="link mono" tabIndex={tabIndex} onClick={() => pick(`${m.number} ${m.seq}`)}>
          {m.number}
        </button>
      ),
    },
    {
      field: 'called',
      headerName: 'What',
      flex: 1,
      minWidth: 104,
      renderCell: ({ row: m }) => (
        <div>
          {m.called} <span className="quiet">{m.way}</span>
        </div>
      ),
    },
    {
      field: 'subject',
      headerName: 'About',
      width: 104,
      renderCell: ({ row: m, tabIndex }) => (
        <Link className="link mono" tabIndex={tabIndex} to={`/documents?world=${world}&doc=${m.subject}`}>
          {m.subject}
        </Link>
      ),
    },
    { field: 'state', headerName: 'State', flex: 1.6, minWidth: 150, renderCell: ({ row }) => <Went m={row} h={h} /> },
    {
      field: 'sent',
      headerName: 'Sent',
      width: 96,
      renderCell: ({ row: m }) => <span className="mono">{m.sent && when(m.sent, h.time_zone, true).slice(-8)}</span>,
    },
    {
      field: 'acts',
      headerName: 'Again',
      width: 70,
      renderCell: ({ row: m, tabIndex }) =>
        may &&
        m.state !== 'answered' &&
        !(h.host.outside && m.way === 'to the floor') && (
          <button
            className="link"
            tabIndex={tabIndex}
            onClick={() => act({ kind: 'repeat_message', message: m.number })}
          >
            repeat
          </button>
        ),
    },
  ]
  if (!h.messages.length && !h.messages_total)
    return <p className="empty">No message has gone between host and floor yet. Confirm an order, and one does.</p>
  return (
    <Grid
      name="messages"
      rows={h.messages}
      total={h.messages_total}
      columns={columns}
      at={at}
      id={(m) => `${m.number} ${m.seq}`}
      picked={picked}
      empty="No message is in that state."
      fixed
      tall
    />
  )
}

/** How far a message is, in a mark and words. */
function Went({ m, h }: { m: Message; h: View }) {
  const [sign, mark, word] = STATES[m.state]
  return (
    <div>
      <span className={`mark ${mark}`}>
        {sign} {word}
      </span>
      {m.state === 'waiting' && m.due && (
        <span className="quiet">
          {' '}
          {m.tries > 0 ? `try ${m.tries + 1}` : 'due'} {when(m.due, h.time_zone, true).slice(-8)}
        </span>
      )}
      {m.heard_again > 0 && <span className="quiet"> came again, no effect</span>}
      {m.says && (
        <span className="quiet">
          {' '}
          <Told text={m.says} />
        </span>
      )}
    </div>
  )
}
