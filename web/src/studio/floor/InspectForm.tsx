import Button from '@mui/material/Button'
import { useState } from 'react'
import type { Shape } from '../../shared/client'
import { Entry, Pick } from '../parts/controls'
import { SerialsPick } from '../parts/SerialsPick'
import { Sheet } from '../parts/Sheet'
import { Refused, type Tell, Why } from './InOffice'

type Row = Shape['ToInspect']
type Said = { failed: string; fault: 'damaged' | 'quarantine'; remark: string; failing: string[] }
const PASSES: Said = { failed: '', fault: 'damaged', remark: '', failing: [] }

/** Says in the office how goods are that wait for it: each kind passes, but for what fails. */
export function InspectForm({
  first,
  others,
  scanned,
  tell,
  close,
}: {
  first: Row
  others: Row[]
  scanned: string[]
  tell: Tell
  close: () => void
}) {
  const [said, setSaid] = useState<Record<number, Said>>({})
  const [why, setWhy] = useState('')
  const [refused, setRefused] = useState('')
  const rows = [first, ...others]
  const of = (n: number) => said[n] ?? PASSES
  const put = (n: number, some: Partial<Said>) => setSaid({ ...said, [n]: { ...of(n), ...some } })
  const fails = (n: number) => Math.round(Number(of(n).failed)) || 0
  const wrong = rows.some((r, n) => fails(n) < 0 || fails(n) > r.quantity)
  const parted = (n: number) =>
    (rows[n]?.serials.length ?? 0) > 0 && fails(n) > 0 && fails(n) < (rows[n]?.quantity ?? 0)
  const sample = rows.some((r, n) => r.looked_at < r.quantity && fails(n) > 0)
  return (
    <Sheet open onClose={close} label={`Inspect ${first.task}`} fullWidth maxWidth="md">
      <form
        style={{ padding: 20 }}
        onSubmit={(e) => {
          e.preventDefault()
          void tell({
            kind: 'inspect_in_office',
            task: first.task,
            verdicts: rows.map((r, n) => ({
              item: r.item,
              lot: r.lot,
              expiry: r.expiry,
              failed: fails(n),
              fault: fails(n) ? of(n).fault : null,
              remark: of(n).remark.trim(),
              photo: '',
              onto: null,
              failing: parted(n) ? of(n).failing : [],
            })),
            why: why.trim(),
          }).then((no) => {
            if (no) return setRefused(no)
            close()
          })
        }}
      >
        <h2 style={{ marginTop: 0 }}>
          How is what stands {first.plate ? 'on ' : 'in '}
          <span className="code">{first.plate ?? first.at}</span>?
        </h2>
        <table className="plain">
          <thead>
            <tr>
              <th>Item</th>
              <th>Inspected</th>
              <th>Of them fail</th>
              <th>Those are</th>
              <th>Remark</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((r, n) => (
              <tr key={n}>
                <td>
                  <span className="code">{r.item}</span> {r.name} {r.lot && <span className="quiet">lot {r.lot}</span>}
                </td>
                <td>
                  {r.looked_at < r.quantity && `${r.looked_at.toLocaleString('en')} of `}
                  {r.quantity.toLocaleString('en')} {r.unit}
                </td>
                <td>
                  <Entry
                    type="number"
                    min={0}
                    max={r.quantity}
                    style={{ width: 96 }}
                    placeholder="none"
                    aria-label={`How many ${r.item} fail`}
                    value={of(n).failed}
                    onChange={(e) => put(n, { failed: e.target.value })}
                  />
                </td>
                <td>
                  <Pick
                    aria-label={`What becomes of ${r.item}`}
                    disabled={!fails(n)}
                    value={of(n).fault}
                    onChange={(e) => put(n, { fault: e.target.value === 'damaged' ? 'damaged' : 'quarantine' })}
                  >
                    <option value="damaged">damaged</option>
                    <option value="quarantine">kept apart</option>
                  </Pick>
                </td>
                <td>
                  <Entry
                    aria-label={`Remark on ${r.item}`}
                    maxLength={120}
                    value={of(n).remark}
                    onChange={(e) => put(n, { remark: e.target.value })}
                  />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {rows.map(
          (r, n) =>
            parted(n) &&
            r.looked_at === r.quantity && (
              <label className="field" key={n}>
                <span>
                  Which <span className="code">{r.item}</span> fail
                </span>
                <SerialsPick
                  label={`Serial numbers of ${r.item} that fail`}
                  among={r.serials}
                  value={of(n).failing}
                  set={(failing) => put(n, { failing })}
                  of={fails(n)}
                />
              </label>
            ),
        )}
        <Why scanned={scanned} why={why} set={setWhy} />
        <Refused says={refused} />
        <div className="form">
          <Button type="submit" variant="contained" disabled={wrong || (scanned.length > 0 && why.trim().length < 3)}>
            {rows.some((_, n) => fails(n)) ? 'Say so' : 'All of it passes'}
          </Button>
          <Button onClick={close}>Close</Button>
          <span className="quiet">
            {sample
              ? 'Only a sample is looked at: when it is not as it should be, all of these are to be.'
              : 'What passes goes on by its step plan; what fails is held apart, on a plate of its own.'}
          </span>
        </div>
      </form>
    </Sheet>
  )
}
