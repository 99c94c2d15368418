import Button from '@mui/material/Button'
import { useMutation, useQuery } from '@tanstack/react-query'
import { useContext, useState } from 'react'
import { useNavigate } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { DRAFT, Say, useDraft, useGround, useWorlds } from '../parts/data'

import { Answer, OpenGoods } from './BinAnswer'
import { Entry, Pick } from '../parts/controls'
import { ItemPick } from '../parts/ItemPick'

type Ask = {
  about: 'made' | 'line' | 'plate'
  item: string
  count: string
  unit: string
  plate: string
  order: string
  world: string
  number: string
  status: string
  form: string
  partner: string
  mark: string
}
const FIRST: Ask = {
  about: 'made',
  item: 'ROPE-12',
  count: '2000',
  unit: 'm',
  plate: 'PAL',
  order: 'PO-1007',
  world: '',
  number: '',
  status: 'available',
  form: '',
  partner: '',
  mark: '',
}

/** Asks the draft "which bin?" and shows the computed answer at once. Remembers its question. */
export function BinBench({ purpose, takes }: { purpose: string; takes: boolean }) {
  const ground = useGround()
  const worlds = useWorlds()
  const draft = useDraft()
  const go = useNavigate()
  const say = useContext(Say)
  const [ask, setAsk] = useState<Ask>(() => ({
    ...FIRST,
    ...(JSON.parse(localStorage.getItem('bench bin') ?? '{}') as Partial<Ask>),
  }))
  const [all, setAll] = useState(false)
  const change = (some: Partial<Ask>) => {
    const next = { ...ask, ...some }
    localStorage.setItem('bench bin', JSON.stringify(next))
    setAsk(next)
  }
  const here = worlds.data?.worlds.filter((w) => w.site === draft.data?.site) ?? []
  const about = takes && ask.about === 'plate' ? 'made' : ask.about
  // what was asked last may be of another site or gone: then the first of what is there
  const remembered = ground.data?.items.find((i) => i.code === ask.item)
  const item = remembered ?? ground.data?.items[0]
  const count = remembered ? ask.count : '1'
  const code = item?.code ?? ''
  const known = ground.data?.orders.find((o) => o.number === ask.order)
  const plate =
    ground.data?.plate_kinds.some((k) => k.code === ask.plate) || !ask.plate
      ? ask.plate
      : (ground.data?.plate_kinds[0]?.code ?? '')
  const unit = item?.units.find((u) => u.code === ask.unit) ?? item?.units[0]
  const quantity = Number(count.replace(/[ ,]/g, '')) * (unit?.quantity ?? 1)
  const whole = about === 'plate' ? ask.number.trim() !== '' : Number.isInteger(quantity) && quantity > 0
  const body: Shape['BenchBody'] = {
    purpose: purpose as Shape['BenchBody']['purpose'],
    item: code,
    quantity: Number.isInteger(quantity) && quantity > 0 ? quantity : 1,
    lot: '',
    status: ask.status as Shape['BenchBody']['status'],
    plate_kind: takes ? null : plate || null,
    plate: about === 'plate' ? ask.number.trim().toUpperCase() : null,
    form: (takes && ask.form ? ask.form : null) as Shape['BenchBody']['form'],
    order: about === 'plate' || takes ? null : (known?.number ?? null),
    partner: takes ? ask.partner || null : null,
    disposition: (purpose === 'return_to' && ask.mark ? ask.mark : null) as Shape['BenchBody']['disposition'],
    world: here.some((w) => w.id === ask.world) ? ask.world : null,
  }
  const answer = useQuery({
    queryKey: ['bench', 'bin', body, draft.data?.rulebook],
    enabled: whole && (about === 'plate' || !!item) && !all,
    placeholderData: (before) => before,
    queryFn: () => got(client.POST('/api/drafts/{id}/bench/bin', { params: { path: { id: DRAFT } }, body })),
  })
  const rehearse = useMutation({
    mutationFn: () =>
      got(
        client.POST('/api/worlds', {
          body: { name: `${item?.name ?? 'A try'}, tried`, draft: DRAFT, book_seconds: 2 },
        }),
      ),
    onSuccess: (world) => void go(`/desk/${world.id}`),
    onError: (e) => say(e.message),
  })
  const orders = ground.data?.orders.filter((o) => o.lines.some((l) => l.item === code)) ?? []
  const pick = (code: string) => {
    const next = ground.data?.items.find((i) => i.code === code)
    const order = ground.data?.orders.find((o) => o.lines.some((l) => l.item === code))
    const line = order?.lines.find((l) => l.item === code)
    const big = next?.units.find((u) => u.code === line?.unit) ?? next?.units[0]
    change({
      item: code,
      unit: big?.code ?? '',
      count: !takes && line && big ? String(line.quantity / big.quantity) : '1',
      order: order?.number ?? '',
    })
  }
  const pickLine = (text: string) => {
    const [number, no] = text.split('/')
    const line = ground.data?.orders.find((o) => o.number === number)?.lines.find((l) => String(l.no) === no)
    const unitOf = ground.data?.items.find((i) => i.code === line?.item)?.units.find((u) => u.code === line?.unit)
    if (line)
      change({
        order: number,
        item: line.item,
        unit: line.unit,
        count: String(line.quantity / (unitOf?.quantity ?? 1)),
      })
  }
  const asked = known?.lines.find((l) => l.item === code)
  return (
    <aside className="bench" aria-label="Bench">
      <h2>
        Bench <small className="quiet">asks this draft: {takes ? 'from which bin?' : 'which bin?'}</small>
      </h2>
      <div className="ask">
        <label className="quiet" htmlFor="bench-about">
          About
        </label>
        <Pick
          id="bench-about"

          value={all ? 'all' : about}
          onChange={(e) =>
            e.target.value === 'all' ? setAll(true) : (setAll(false), change({ about: e.target.value as Ask['about'] }))
          }
        >
          <option value="made">goods made up here</option>
          {!takes && <option value="line">a line of an order</option>}
          {!takes && <option value="plate">a plate that exists</option>}
          <option value="all">{takes ? 'every item in stock' : 'all open orders at once'}</option>
        </Pick>
        {!all && about === 'line' && !takes && (
          <>
            <label className="quiet" htmlFor="bench-line">
              Line
            </label>
            <Pick
              id="bench-line"

              value={asked ? `${ask.order}/${asked.no}` : ''}
              onChange={(e) => pickLine(e.target.value)}
            >
              <option value="" disabled>
                choose a line
              </option>
              {ground.data?.orders.flatMap((o) =>
                o.lines.map((l) => (
                  <option key={`${o.number}/${l.no}`} value={`${o.number}/${l.no}`}>
                    {o.number} line {l.no}: {l.told} {l.name}
                  </option>
                )),
              )}
            </Pick>
          </>
        )}
        {!all && about === 'plate' && (
          <>
            <label className="quiet" htmlFor="bench-number">
              Plate
            </label>
            <Entry
              id="bench-number"

              style={{ fontFamily: 'var(--mono)' }}
              placeholder="LP-000001"
              value={ask.number}
              onChange={(e) => change({ number: e.target.value })}
            />
          </>
        )}
        {!all && about === 'made' && (
          <>
            <span className="quiet">Goods</span>
            <ItemPick code={code} choose={pick} />
          </>
        )}
        {!all && about !== 'plate' && (
          <>
            <label className="quiet" htmlFor="bench-count">
              How much
            </label>
            <span style={{ display: 'flex', gap: 8 }}>
              <Entry
                id="bench-count"

                style={{ width: 110, fontFamily: 'var(--mono)' }}
                value={count}
                onChange={(e) => change({ item: code, count: e.target.value })}
              />
              <Pick aria-label="Unit" value={unit?.code ?? ''} onChange={(e) => change({ unit: e.target.value })}>
                {item?.units.map((u) => (
                  <option key={u.code} value={u.code}>
                    {u.plural}
                    {u.quantity > 1 ? ` of ${u.quantity}` : ''}
                  </option>
                ))}
              </Pick>
            </span>
            {takes ? (
              <>
                <label className="quiet" htmlFor="bench-form">
                  As
                </label>
                <Pick
                  id="bench-form"

                  value={ask.form}
                  onChange={(e) => change({ form: e.target.value })}
                >
                  <option value="">what the quantity makes</option>
                  <option value="whole_plate">a whole plate</option>
                  <option value="case">full cases</option>
                  <option value="each">single pieces</option>
                </Pick>
                <label className="quiet" htmlFor="bench-partner">
                  For
                </label>
                <Pick
                  id="bench-partner"

                  value={ask.partner}
                  onChange={(e) => change({ partner: e.target.value })}
                >
                  <option value="">anybody</option>
                  {ground.data?.partners.map((p) => (
                    <option key={p.code} value={p.code}>
                      {p.name}
                      {p.shelf_life_days > 0 ? `, ${p.shelf_life_days} days left` : ''}
                    </option>
                  ))}
                </Pick>
              </>
            ) : (
              <>
                <label className="quiet" htmlFor="bench-plate">
                  On
                </label>
                <Pick
                  id="bench-plate"

                  value={ask.plate}
                  onChange={(e) => change({ plate: e.target.value })}
                >
                  {ground.data?.plate_kinds.map((k) => (
                    <option key={k.code} value={k.code}>
                      one {k.name.toLowerCase()}
                    </option>
                  ))}
                  <option value="">no plate, loose</option>
                </Pick>
                {about === 'made' && (
                  <>
                    <label className="quiet" htmlFor="bench-order">
                      From
                    </label>
                    <Pick
                      id="bench-order"

                      value={known?.number ?? ''}
                      onChange={(e) => change({ order: e.target.value })}
                    >
                      <option value="">any purchase order</option>
                      {orders.map((o) => (
                        <option key={o.number} value={o.number}>
                          {o.number}, {o.partner}
                        </option>
                      ))}
                    </Pick>
                  </>
                )}
              </>
            )}
            {purpose === 'return_to' && (
              <>
                <label className="quiet" htmlFor="bench-mark">
                  Marked
                </label>
                <Pick
                  id="bench-mark"

                  value={ask.mark}
                  onChange={(e) => change({ mark: e.target.value })}
                >
                  <option value="">not at all</option>
                  <option value="restock">to restock</option>
                  <option value="repair">to repair</option>
                  <option value="send_back">to send back</option>
                  <option value="scrap">to scrap</option>
                </Pick>
              </>
            )}
            {ask.status !== 'available' || takes || purpose === 'return_to' ? (
              <>
                <label className="quiet" htmlFor="bench-status">
                  Status
                </label>
                <Pick
                  id="bench-status"

                  value={ask.status}
                  onChange={(e) => change({ status: e.target.value })}
                >
                  {['available', 'inspect', 'quarantine', 'damaged', 'expired'].map((s) => (
                    <option key={s} value={s}>
                      {s}
                    </option>
                  ))}
                </Pick>
              </>
            ) : null}
          </>
        )}
        <label className="quiet" htmlFor="bench-world">
          With stock
        </label>
        <Pick
          id="bench-world"

          value={ask.world}
          onChange={(e) => change({ world: e.target.value })}
        >
          <option value="">of the opening state</option>
          {here.map((w) => (
            <option key={w.id} value={w.id}>
              of {w.name}, after entry {w.seq}
            </option>
          ))}
        </Pick>
      </div>
      {all ? (
        <OpenGoods
          purpose={purpose}
          takes={takes}
          world={ask.world}
          look={(line) => {
            setAll(false)
            change({ about: 'made', item: line.item, order: line.order, unit: '', count: '1' })
            if (line.order) pickLine(`${line.order}/${line.line}`)
          }}
        />
      ) : (
        <>
          {!whole && about === 'plate' && <p className="quiet">Name a plate by its number.</p>}
          {!whole && about !== 'plate' && (
            <p className="mark doubt">
              ▲ Enter a whole quantity above zero; {item?.name} is kept in whole {item?.units[0]?.plural}.
            </p>
          )}
          {answer.error && <p className="mark fails">✕ {answer.error.message.replace(/`/g, '')}</p>}
          {answer.data && !answer.error && whole && (
            <Answer answer={answer.data} map={ground.data?.map} takes={takes} />
          )}
          {!takes && (
            <div className="form">
              <Button onClick={() => rehearse.mutate()}>Try it on the handset</Button>
            </div>
          )}
        </>
      )}
    </aside>
  )
}
