import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { client, got } from '../../shared/client'
import { Told } from '../../shared/Told'
import { DRAFT, useDraft, useGround } from '../parts/data'
import { Entry, Pick } from '../parts/controls'

/** For one item, one bin and one order: all that must agree, each with what would mend it. */
export default function AgreementBench() {
  const ground = useGround()
  const draft = useDraft()
  const [ask, setAsk] = useState<{ item: string; bin: string; order: string }>(() => ({
    item: '',
    bin: '',
    order: '',
    ...(JSON.parse(localStorage.getItem('bench agree') ?? '{}') as object),
  }))
  const change = (some: Partial<typeof ask>) => {
    const next = { ...ask, ...some }
    localStorage.setItem('bench agree', JSON.stringify(next))
    setAsk(next)
  }
  const items = ground.data?.items ?? []
  const orders = ground.data?.orders ?? []
  const order = orders.some((o) => o.number === ask.order) ? ask.order : ''
  const item = items.find((i) => i.code === ask.item)?.code ?? orders[0]?.lines[0]?.item ?? items[0]?.code ?? ''
  const answer = useQuery({
    queryKey: ['bench', 'agreement', item, ask.bin, order, draft.data?.rulebook],
    enabled: !!draft.data && !!item,
    placeholderData: (before) => before,
    queryFn: () =>
      got(
        client.POST('/api/drafts/{id}/bench/agreement', {
          params: { path: { id: DRAFT } },
          body: { item, bin: ask.bin, order, world: null },
        }),
      ),
  })
  const bad = answer.data?.pairs.filter((p) => !p.holds).length ?? 0
  return (
    <aside className="bench" aria-label="Bench">
      <h2>
        Bench <small className="quiet">do they agree?</small>
      </h2>
      <div className="ask">
        <label className="quiet" htmlFor="agree-item">
          Item
        </label>
        <Pick id="agree-item" value={item} onChange={(e) => change({ item: e.target.value })}>
          {items.map((i) => (
            <option key={i.code} value={i.code}>
              {i.name}
            </option>
          ))}
        </Pick>
        <label className="quiet" htmlFor="agree-bin">
          Bin
        </label>
        <Entry
          id="agree-bin"

          style={{ fontFamily: 'var(--mono)' }}
          value={ask.bin}
          placeholder={answer.data?.bin ?? ''}
          onChange={(e) => change({ bin: e.target.value })}
        />
        <label className="quiet" htmlFor="agree-order">
          Order
        </label>
        <Pick id="agree-order" value={order} onChange={(e) => change({ order: e.target.value })}>
          <option value="">none in particular</option>
          {orders.map((o) => (
            <option key={o.number} value={o.number}>
              {o.number}, {o.partner}
            </option>
          ))}
        </Pick>
      </div>
      {answer.error ? (
        <p className="mark fails" style={{ whiteSpace: 'normal' }}>
          ✕ <Told text={answer.error.message} />
        </p>
      ) : (
        answer.data && (
          <>
            <p style={{ fontSize: 17, margin: '10px 0' }}>
              <span className={`mark ${bad ? 'fails' : 'holds'}`}>{bad ? '✕' : '●'}</span> {answer.data.says}
            </p>
            <ul className="agrees">
              {[...answer.data.pairs]
                .sort((a, b) => Number(a.holds) - Number(b.holds))
                .map((p) => (
                  <li key={`${p.what} ${p.says}`} style={{ padding: '4px 0' }}>
                    <span className={`mark ${p.holds ? 'holds' : 'fails'}`}>{p.holds ? '●' : '✕'}</span>{' '}
                    <span className="quiet">{p.what}</span>
                    <div style={{ paddingLeft: 18 }}>
                      <Told text={p.says} />
                    </div>
                  </li>
                ))}
            </ul>
          </>
        )
      )}
    </aside>
  )
}
