import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { client, got } from '../../shared/client'
import { Told } from '../../shared/Told'
import { Pick } from '../parts/controls'
import { DRAFT, useDraft, useGround } from '../parts/data'
import { LabelsOut } from './LabelsOut'
import PaperBench from './PaperBench'

/** What comes out on paper: of a receipt, or of an order that leaves. */
export default function LabelBench() {
  const [leaves, setLeaves] = useState(false)
  return (
    <aside className="bench" aria-label="Bench">
      <h2>
        Bench{' '}
        <small className="quiet">
          {leaves ? 'this order leaves with these papers' : 'this receipt gives these labels'}
        </small>
      </h2>
      <div className="ask">
        <label className="quiet" htmlFor="papers-of">
          Papers of
        </label>
        <Pick id="papers-of" value={leaves ? 'out' : 'in'} onChange={(e) => setLeaves(e.target.value === 'out')}>
          <option value="in">goods that come in</option>
          <option value="out">goods that leave</option>
        </Pick>
      </div>
      {leaves ? <PaperBench /> : <Received />}
    </aside>
  )
}

/** An order that is supposed to be received, and the labels that come out of it. */
function Received() {
  const ground = useGround()
  const draft = useDraft()
  const orders = ground.data?.orders ?? []
  const [chosen, setChosen] = useState('')
  const [kind, setKind] = useState('')
  const order = chosen || orders[0]?.number || ''
  const answer = useQuery({
    queryKey: ['bench', 'labels', order, kind, draft.data?.rulebook],
    enabled: order !== '' && !!draft.data,
    placeholderData: (before) => before,
    retry: false,
    queryFn: () =>
      got(
        client.POST('/api/drafts/{id}/bench/labels', {
          params: { path: { id: DRAFT } },
          body: { order, plate_kind: kind, world: null },
        }),
      ),
  })
  return (
    <>
      <div className="ask">
        <label className="quiet" htmlFor="label-order">
          Received
        </label>
        <Pick id="label-order" value={order} onChange={(e) => setChosen(e.target.value)}>
          {orders.map((o) => (
            <option key={o.number} value={o.number}>
              {o.number}, {o.partner}
            </option>
          ))}
        </Pick>
        <label className="quiet" htmlFor="label-kind">
          onto
        </label>
        <Pick id="label-kind" value={kind} onChange={(e) => setKind(e.target.value)}>
          {(ground.data?.plate_kinds ?? []).map((k, n) => (
            <option key={k.code} value={n === 0 ? '' : k.code}>
              {k.name}
            </option>
          ))}
        </Pick>
      </div>
      {ground.data && orders.length === 0 && (
        <p className="empty">There is no order here yet. Make a test order on Orders.</p>
      )}
      {answer.error && (
        <p className="mark fails" style={{ whiteSpace: 'normal' }}>
          ✕ <Told text={answer.error.message} />
        </p>
      )}
      {answer.data && !answer.error && (
        <>
          {answer.data.prints.length === 0 && <p className="quiet">No label comes out.</p>}
          <LabelsOut prints={answer.data.prints} nothing={answer.data.nothing} />
        </>
      )}
      <p className="quiet">Supposed: all that is open of it comes now, onto one plate. Nothing is printed.</p>
    </>
  )
}
