import Button from '@mui/material/Button'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { ActHead, Entry, Pick, Tick } from '../parts/controls'
import { SerialsPick } from '../parts/SerialsPick'
import { Sheet } from '../parts/Sheet'
import { Skeleton } from '../parts/Skeleton'
import { useKept } from '../parts/kept'

/** Does something on the floor: why it was refused, empty when it was done. */
export type Tell = (act: Shape['CommandBody']['act']) => Promise<string>
type Said = { count: string; lot: string; expiry: string; serials: string[] }
const NOTHING: Said = { count: '', lot: '', expiry: '', serials: [] }

/** Why a step that is scanned on the floor is done in the office; asked where the floor must scan. */
export function Why({ scanned, why, set }: { scanned: string[]; why: string; set: (why: string) => void }) {
  if (scanned.length === 0) return null
  return (
    <label className="field">
      <span>Why here, though {scanned.join(' and ')} must be scanned on the floor</span>
      <Entry
        value={why}
        onChange={(e) => set(e.target.value)}
        maxLength={120}
        placeholder="scanner broken, paper only …"
      />
    </label>
  )
}

export function Refused({ says }: { says: string }) {
  return (
    <p className="mark fails" role="status" style={{ whiteSpace: 'normal' }}>
      {says && (
        <>
          ✕ <Told text={says} />
        </>
      )}
    </p>
  )
}

/** Receives in the office what hands would scan: the quantities that came, onto one plate or loose. */
export function ReceiveForm({
  world,
  order,
  scanned,
  closes,
  tell,
  close,
}: {
  world: string
  order: string
  scanned: string[]
  closes: boolean
  tell: Tell
  close: () => void
}) {
  const open = useQuery({
    queryKey: ['world', world, 'open', order],
    queryFn: () => got(client.GET('/api/worlds/{id}/orders/{order}/open', { params: { path: { id: world, order } } })),
    retry: false,
  })
  const [typed, setSaid] = useState<Record<string, Said>>({})
  const [fills, keepFills] = useKept('receipt-filled', false)
  const [chosen, setChosen] = useState<boolean | null>(null)
  const filled = chosen ?? !!fills
  const [kind, setKind] = useState<string | null>(null)
  const [label, setLabel] = useState('')
  const [why, setWhy] = useState('')
  const [later, setLater] = useState(false)
  const [note, setNote] = useState('')
  const [closing, setClosing] = useState('')
  const [reason, setReason] = useState('')
  const [refused, setRefused] = useState('')
  const lines = open.data?.lines ?? []
  const plate = kind ?? open.data?.plates[0]?.code ?? ''
  const stillOpen = (item: string) => lines.find((l) => l.item === item && !l.why_not)?.open
  // what nobody has typed is all that is open, where it is to be filled in
  const of = (item: string) => typed[item] ?? { ...NOTHING, count: filled ? String(stillOpen(item) ?? '') : '' }
  const put = (item: string, some: Partial<Said>) => setSaid({ ...typed, [item]: { ...of(item), ...some } })
  const came = lines.filter((l) => Number(of(l.item).count) > 0)
  const numbered = came.filter((l) => l.serial)
  const whyLacks = scanned.length > 0 && why.trim().length < 3
  return (
    <Sheet open onClose={close} label={`Receive ${order}`} fullWidth maxWidth="md">
      <form
        style={{ padding: 20 }}
        onSubmit={(e) => {
          e.preventDefault()
          void tell({
            kind: 'receive_in_office',
            order,
            lines: came.map((l) => ({
              item: l.item,
              quantity: Math.round(Number(of(l.item).count)),
              lot: of(l.item).lot.trim(),
              expiry: of(l.item).expiry || null,
              serials: l.serial ? of(l.item).serials : [],
            })),
            plate_kind: plate || null,
            plate: plate && label.trim() ? label.trim() : null,
            why: why.trim(),
            finish: !later,
            note: note.trim(),
          }).then((no) => (no ? setRefused(no) : close()))
        }}
      >
        <h2 style={{ marginTop: 0 }}>
          Receive <span className="code">{order}</span>
        </h2>
        {open.error && <p className="mark fails">✕ {open.error.message.replace(/`/g, '')}</p>}
        {!open.data ? (
          !open.error && <Skeleton />
        ) : (
          <>
            <label className="tick">
              <Tick
                checked={filled}
                disabled={fills === undefined}
                onChange={(e) => (setChosen(e.target.checked), keepFills(e.target.checked))}
              />{' '}
              filled in with all that is open
            </label>
            <table className="plain">
              <thead>
                <tr>
                  <th>Item</th>
                  <th>Open</th>
                  <th>Came</th>
                  <th>Lot</th>
                  <th>Keeps until</th>
                  <th>Step plan</th>
                  {closes && <ActHead />}
                </tr>
              </thead>
              <tbody>
                {lines.map((l) => (
                  <tr key={l.item}>
                    <td>
                      <span className="code">{l.item}</span> {l.name}
                    </td>
                    <td>
                      <button
                        type="button"
                        className="link"
                        disabled={!!l.why_not}
                        onClick={() => put(l.item, { count: String(l.open) })}
                      >
                        {l.open.toLocaleString('en')} {l.unit}
                      </button>
                    </td>
                    <td>
                      <Entry
                        type="number"
                        min={0}
                        style={{ width: 96 }}
                        aria-label={`How many ${l.item} came`}
                        disabled={!!l.why_not}
                        value={of(l.item).count}
                        onChange={(e) => put(l.item, { count: e.target.value })}
                      />
                    </td>
                    <td>
                      {l.lot && (
                        <Entry
                          style={{ width: 120 }}
                          aria-label={`Lot of ${l.item}`}
                          value={of(l.item).lot}
                          onChange={(e) => put(l.item, { lot: e.target.value })}
                        />
                      )}
                    </td>
                    <td>
                      {l.expiry && (
                        <Entry
                          type="date"
                          aria-label={`${l.item} keeps until`}
                          value={of(l.item).expiry}
                          onChange={(e) => put(l.item, { expiry: e.target.value })}
                        />
                      )}
                    </td>
                    <td>
                      {l.why_not ? <Told text={l.why_not} /> : l.plan}
                      {l.more > 0 && (
                        <div className="quiet">
                          takes {l.more.toLocaleString('en')} {l.unit} more than ordered
                        </div>
                      )}
                    </td>
                    {closes && (
                      <td>
                        <button
                          type="button"
                          className="link"
                          aria-label={`No more ${l.item} is waited for`}
                          onClick={() => setClosing(closing === l.item ? '' : l.item)}
                        >
                          no more comes
                        </button>
                      </td>
                    )}
                  </tr>
                ))}
              </tbody>
            </table>
            {numbered.map((l) => (
              <label className="field" key={l.item}>
                <span>
                  The serial number of each <span className="code">{l.item}</span> that came
                </span>
                <SerialsPick
                  label={`Serial numbers of ${l.item}`}
                  value={of(l.item).serials}
                  set={(serials) => put(l.item, { serials })}
                  of={Number(of(l.item).count)}
                />
              </label>
            ))}
            {closing && closes && (
              <div className="form">
                <span>
                  The rest of <span className="code">{closing}</span> is not waited for any more, because
                </span>
                <Entry
                  aria-label="Why no more comes"
                  style={{ flex: 1 }}
                  maxLength={120}
                  value={reason}
                  onChange={(e) => setReason(e.target.value)}
                />
                <Button
                  disabled={reason.trim().length < 3}
                  onClick={() =>
                    void tell({ kind: 'close_rest', order, item: closing, why: reason.trim() }).then((no) => {
                      setRefused(no)
                      if (!no) setClosing('')
                    })
                  }
                >
                  Close it short
                </Button>
              </div>
            )}
            <div className="form">
              <Pick aria-label="Onto" value={plate} onChange={(e) => setKind(e.target.value)}>
                {open.data.plates.map((p) => (
                  <option key={p.code} value={p.code}>
                    onto a new plate: {p.name}
                  </option>
                ))}
                <option value="">loose</option>
              </Pick>
              {plate && (
                <Entry
                  aria-label="Label of the plate"
                  placeholder="its label; else the next number"
                  style={{ width: 240 }}
                  value={label}
                  onChange={(e) => setLabel(e.target.value)}
                />
              )}
              <label className="tick">
                <Tick checked={later} onChange={(e) => setLater(e.target.checked)} /> more comes onto it: not finished
                yet
              </label>
            </div>
            {lines.some((l) => l.note !== 'no') && (
              <label className="field">
                <span>Delivery note{lines.some((l) => l.note === 'required') ? '' : ', if there is one'}</span>
                <Entry value={note} maxLength={40} onChange={(e) => setNote(e.target.value)} />
              </label>
            )}
            <Why scanned={scanned} why={why} set={setWhy} />
            <Refused says={refused} />
            <div className="form">
              <Button type="submit" variant="contained" disabled={came.length === 0 || whyLacks}>
                {later ? 'Note it' : 'Receive it'}
              </Button>
              <Button onClick={close}>Close</Button>
              <span className="quiet">
                {came.length === 0
                  ? 'Say how much came; a click on what is open takes all of it.'
                  : later
                    ? 'Noted it is no stock yet; it stands under Never finished.'
                    : 'It becomes stock, and what follows is made as if it had been scanned.'}
              </span>
            </div>
          </>
        )}
      </form>
    </Sheet>
  )
}

/** Says in the office where what a task is about was put. */
export function PutAwayForm({
  task,
  scanned,
  tell,
  close,
}: {
  task: Shape['ToDo']
  scanned: string[]
  tell: Tell
  close: () => void
}) {
  const [bin, setBin] = useState('')
  const [serials, setSerials] = useState<string[]>([])
  const [refused, setRefused] = useState('')
  const [why, setWhy] = useState('')
  const verb = task.need === 'replenish' ? 'Brought' : 'Put away'
  return (
    <Sheet open onClose={close} label={`${verb} ${task.number}`} fullWidth maxWidth="sm">
      <form
        style={{ padding: 20 }}
        onSubmit={(e) => {
          e.preventDefault()
          void tell({
            kind: 'put_away_in_office',
            task: task.number,
            bin: bin.trim().toUpperCase() || null,
            why: why.trim(),
            serials,
          }).then((no) => (no ? setRefused(no) : close()))
        }}
      >
        <h2 style={{ marginTop: 0 }}>
          {verb} <span className="code">{task.number}</span>
        </h2>
        <p>
          <Told text={task.says} />
        </p>
        <label className="field">
          <span>Into bin</span>
          <Entry
            value={bin}
            onChange={(e) => setBin(e.target.value)}
            placeholder={task.to ? `${task.to}, as it was shown` : 'no rule found one: say which'}
            style={{ fontFamily: 'var(--mono)' }}
          />
        </label>
        {task.pieces > 0 && (
          <label className="field">
            <span>
              Which {task.pieces.toLocaleString('en')} of the {task.serials.length.toLocaleString('en')} that lie there
            </span>
            <SerialsPick
              label="Serial numbers put away"
              among={task.serials}
              value={serials}
              set={setSerials}
              of={task.pieces}
            />
          </label>
        )}
        <Why scanned={scanned} why={why} set={setWhy} />
        <Refused says={refused} />
        <div className="form">
          <Button
            type="submit"
            variant="contained"
            disabled={(scanned.length > 0 && why.trim().length < 3) || (!task.to && !bin.trim())}
          >
            It stands there
          </Button>
          <Button onClick={close}>Close</Button>
        </div>
      </form>
    </Sheet>
  )
}

/** Says in the office that a task was picked: fetched, and set down where it is brought, or only fetched so far. */
export function PickForm({ task, tell, close }: { task: Shape['ToDo']; tell: Tell; close: () => void }) {
  const [bin, setBin] = useState('')
  const [begin, setBegin] = useState(false)
  const [serials, setSerials] = useState<string[]>([])
  const [refused, setRefused] = useState('')
  const [why, setWhy] = useState('')
  return (
    <Sheet open onClose={close} label={`Picked ${task.number}`} fullWidth maxWidth="sm">
      <form
        style={{ padding: 20 }}
        onSubmit={(e) => {
          e.preventDefault()
          void tell({
            kind: 'pick_in_office',
            task: task.number,
            bin: bin.trim().toUpperCase() || null,
            why: why.trim(),
            begin,
            serials,
          }).then((no) => (no ? setRefused(no) : close()))
        }}
      >
        <h2 style={{ marginTop: 0 }}>
          Picked: <span className="code">{task.number}</span>
        </h2>
        <p>
          <Told text={task.says} />
        </p>
        <label className="tick">
          <Tick checked={begin} onChange={(e) => setBegin(e.target.checked)} /> only fetched so far, still to be set
          down
        </label>
        {!begin && (
          <label className="field">
            <span>Set down in</span>
            <Entry
              value={bin}
              onChange={(e) => setBin(e.target.value)}
              placeholder={task.to ? `${task.to}, as it was shown` : 'no rule says where: say which bin'}
              style={{ fontFamily: 'var(--mono)' }}
            />
          </label>
        )}
        {task.pieces > 0 && (
          <label className="field">
            <span>
              Which {task.pieces.toLocaleString('en')} of the {task.serials.length.toLocaleString('en')} that lie there
            </span>
            <SerialsPick
              label="Serial numbers picked"
              among={task.serials}
              value={serials}
              set={setSerials}
              of={task.pieces}
            />
          </label>
        )}
        <label className="field">
          <span>Why it is said here and not scanned</span>
          <Entry value={why} onChange={(e) => setWhy(e.target.value)} maxLength={120} placeholder="picked by paper …" />
        </label>
        <Refused says={refused} />
        <div className="form">
          <Button
            type="submit"
            variant="contained"
            disabled={why.trim().length < 3 || (!begin && !task.to && !bin.trim())}
          >
            {begin ? 'It was fetched' : 'It was picked'}
          </Button>
          <Button onClick={close}>Close</Button>
        </div>
      </form>
    </Sheet>
  )
}
