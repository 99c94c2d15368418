import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { client, got } from '../../shared/client'
import { Told } from '../../shared/Told'
import { FloorAsked, NoAnswer } from '../parts/bench'
import { Entry, Pick } from '../parts/controls'
import { DRAFT, useDraft, useGround } from '../parts/data'
import { Why } from '../parts/Trail'

/** Something that a customer sends back today: accepted or not, by which rule, with the last shipment; what becomes of it, and where it goes. */
export default function ReturnBench() {
  const draft = useDraft()
  const ground = useGround()
  const [world, setWorld] = useState('')
  const [item, setItem] = useState('')
  const [partner, setPartner] = useState('')
  const [mark, setMark] = useState('')
  const [much, setMuch] = useState('1')
  const quantity = /^\d{1,9}$/.test(much.trim()) ? Number(much) : 0
  const answer = useQuery({
    queryKey: ['bench', 'returns', world, item, partner, mark, quantity, draft.data?.rulebook],
    enabled: !!draft.data && quantity > 0,
    placeholderData: (before) => before,
    retry: false,
    queryFn: () =>
      got(
        client.POST('/api/drafts/{id}/bench/returns', {
          params: { path: { id: DRAFT } },
          body: { world: world || null, item, partner, quantity, mark },
        }),
      ),
  })
  const a = answer.data
  const [sign, kind] = !a ? ['', ''] : a.judged.becomes === 'accept' ? ['✓', 'holds'] : a.judged.becomes === 'hold' ? ['▲', 'doubt'] : ['✕', 'fails'] // prettier-ignore
  return (
    <aside className="bench" aria-label="Bench">
      <h2>
        Bench <small className="quiet">this comes back today</small>
      </h2>
      <div className="ask">
        <FloorAsked id="return-floor" value={world} set={setWorld} />
        <label className="quiet" htmlFor="return-item">
          Item
        </label>
        <Pick id="return-item" value={item || (a?.item ?? '')} onChange={(e) => setItem(e.target.value)}>
          {(ground.data?.items ?? []).map((i) => (
            <option key={i.code} value={i.code}>
              {i.code}, {i.name}
            </option>
          ))}
        </Pick>
        <label className="quiet" htmlFor="return-much">
          How many
        </label>
        <Entry
          id="return-much"
          value={much}
          inputMode="numeric"
          maxLength={9}
          onChange={(e) => setMuch(e.target.value)}
        />
        <label className="quiet" htmlFor="return-partner">
          From
        </label>
        <Pick id="return-partner" value={partner || (a?.partner ?? '')} onChange={(e) => setPartner(e.target.value)}>
          {Object.entries(a?.customers ?? {}).map(([code, name]) => (
            <option key={code} value={code}>
              {name}
            </option>
          ))}
        </Pick>
        <label className="quiet" htmlFor="return-mark">
          Marked
        </label>
        <Pick id="return-mark" value={mark || (a?.mark ?? '')} onChange={(e) => setMark(e.target.value)}>
          {Object.entries(a?.marks ?? {}).map(([id, name]) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </Pick>
      </div>
      {quantity === 0 && <p className="mark doubt">▲ How many is a whole number above zero.</p>}
      <NoAnswer error={answer.error} />
      {a && quantity > 0 && !answer.error && (
        <>
          <p className={`mark ${kind}`} style={{ whiteSpace: 'normal' }}>
            {sign} It is {a.becomes}. <Told text={a.judged.says} />
          </p>
          {a.then && <p>{a.then}</p>}
          {a.why && (
            <>
              <h3>Where it goes</h3>
              <p>{a.why.bin ? <span className="code">{a.why.bin}</span> : 'No bin: whoever puts it away is asked.'}</p>
              <Why why={a.why} />
            </>
          )}
        </>
      )}
      <p className="quiet">
        Former shipments are those of the floor that is chosen; the opening state has none. Nothing is taken back.
      </p>
    </aside>
  )
}
