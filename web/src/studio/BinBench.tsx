import Autocomplete from '@mui/material/Autocomplete'
import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { useMutation, useQuery } from '@tanstack/react-query'
import { useContext, useState } from 'react'
import { useNavigate } from 'react-router'
import { client, got, type Shape } from '../shared/client'
import { Told } from '../shared/Told'
import { DRAFT, Say, useDraft, useGround, useWorlds } from './data'
import { MapStrip } from './MapStrip'
import { Why } from './Trail'

type Ask = { item: string; count: string; unit: string; plate: string; order: string; world: string }

/** Asks the draft "which bin?" and shows the computed answer at once. Remembers its question. */
export function BinBench() {
  const ground = useGround()
  const worlds = useWorlds()
  const draft = useDraft()
  const go = useNavigate()
  const say = useContext(Say)
  const [ask, setAsk] = useState<Ask>(() => JSON.parse(localStorage.getItem('bench bin') ?? 'null') ?? { item: 'ROPE-12', count: '2000', unit: 'm', plate: 'PAL', order: 'PO-1007', world: '' })
  const change = (some: Partial<Ask>) => {
    const next = { ...ask, ...some }
    localStorage.setItem('bench bin', JSON.stringify(next))
    setAsk(next)
  }
  const item = ground.data?.items.find((i) => i.code === ask.item)
  const unit = item?.units.find((u) => u.code === ask.unit) ?? item?.units[0]
  const quantity = Number(ask.count.replace(/[ ,]/g, '')) * (unit?.quantity ?? 1)
  const whole = Number.isInteger(quantity) && quantity > 0
  const answer = useQuery({
    queryKey: ['bench', 'bin', ask, draft.data?.rulebook],
    enabled: !!item && whole,
    placeholderData: (before) => before,
    queryFn: () =>
      got(
        client.POST('/api/drafts/{id}/bench/bin', {
          params: { path: { id: DRAFT } },
          body: { item: ask.item, quantity, lot: '', plate_kind: ask.plate || null, order: ask.order || null, world: ask.world || null },
        }),
      ),
  })
  const rehearse = useMutation({
    mutationFn: () => got(client.POST('/api/worlds', { body: { name: `${item?.name ?? 'A try'}, tried`, draft: DRAFT, book_seconds: 2 } })),
    onSuccess: (world) => void go(`/desk/${world.id}`),
    onError: (e) => say(e.message),
  })
  const orders = ground.data?.orders.filter((o) => o.lines.some((l) => l.item === ask.item)) ?? []
  const pick = (code: string) => {
    const next = ground.data?.items.find((i) => i.code === code)
    const order = ground.data?.orders.find((o) => o.lines.some((l) => l.item === code))
    const line = order?.lines.find((l) => l.item === code)
    const big = next?.units.find((u) => u.code === line?.unit) ?? next?.units[0]
    change({ item: code, unit: big?.code ?? '', count: line && big ? String(line.quantity / big.quantity) : '1', order: order?.number ?? '' })
  }
  return (
    <aside className="bench" aria-label="Bench">
      <h2>
        Bench <small className="quiet">asks this draft: which bin?</small>
      </h2>
      <div className="ask">
        <span className="quiet">Goods</span>
        <Autocomplete
          options={ground.data?.items ?? []}
          value={item ?? null}
          getOptionLabel={(i) => i.name}
          getOptionKey={(i) => i.code}
          isOptionEqualToValue={(a, b) => a.code === b.code}
          onChange={(_, i) => i && pick(i.code)}
          renderInput={(p) => <TextField {...p} aria-label="Item" placeholder="an item" slotProps={{ ...p.slotProps, htmlInput: { ...p.slotProps?.htmlInput, 'aria-label': 'Item' } }} />}
        />
        <label className="quiet" htmlFor="bench-count">
          How much
        </label>
        <span style={{ display: 'flex', gap: 8 }}>
          <input id="bench-count" className="input" style={{ width: 110, fontFamily: 'var(--mono)' }} value={ask.count} onChange={(e) => change({ count: e.target.value })} />
          <select className="select" aria-label="Unit" value={unit?.code ?? ''} onChange={(e) => change({ unit: e.target.value })}>
            {item?.units.map((u) => (
              <option key={u.code} value={u.code}>
                {u.plural}
                {u.quantity > 1 ? ` of ${u.quantity}` : ''}
              </option>
            ))}
          </select>
        </span>
        <label className="quiet" htmlFor="bench-plate">
          On
        </label>
        <select id="bench-plate" className="select" value={ask.plate} onChange={(e) => change({ plate: e.target.value })}>
          {ground.data?.plate_kinds.map((k) => (
            <option key={k.code} value={k.code}>
              one {k.name.toLowerCase()}
            </option>
          ))}
          <option value="">no plate, loose</option>
        </select>
        <label className="quiet" htmlFor="bench-order">
          From
        </label>
        <select id="bench-order" className="select" value={ask.order} onChange={(e) => change({ order: e.target.value })}>
          <option value="">any purchase order</option>
          {orders.map((o) => (
            <option key={o.number} value={o.number}>
              {o.number}, {o.partner}
            </option>
          ))}
        </select>
        <label className="quiet" htmlFor="bench-world">
          With stock
        </label>
        <select id="bench-world" className="select" value={ask.world} onChange={(e) => change({ world: e.target.value })}>
          <option value="">of the opening state</option>
          {worlds.data?.worlds.map((w) => (
            <option key={w.id} value={w.id}>
              of {w.name}, after entry {w.seq}
            </option>
          ))}
        </select>
      </div>
      {!whole && <p className="mark doubt">▲ Enter a whole quantity above zero; {item?.name} is kept in whole {item?.units[0]?.plural}.</p>}
      {answer.error && <p className="mark fails">✕ {answer.error.message}</p>}
      {answer.data && whole && <Answer answer={answer.data} map={ground.data?.map.bins ?? []} />}
      <div className="form">
        <Button onClick={() => rehearse.mutate()}>Try it on the handset</Button>
      </div>
    </aside>
  )
}

function Answer({ answer, map }: { answer: Shape['BenchAnswer']; map: Shape['BinView'][] }) {
  const why = answer.why
  const bin = why.explanation.bin
  return (
    <div aria-live="polite">
      <div className={`answer${bin ? '' : ' none'}`} data-testid="bench-answer">
        {bin ? (
          <>
            <b>{bin}</b>
            <span className="quiet">
              by rule {why.numbers[why.explanation.rule ?? '']}
              {why.explanation.metres !== null && `, ${why.explanation.metres} m from ${answer.from_bin}`}
            </span>
          </>
        ) : (
          <span>
            <span className="mark fails">■ </span>
            <Told text={answer.says} />
          </span>
        )}
      </div>
      <p className="quiet" style={{ margin: '6px 2px' }}>
        {answer.told}, {answer.weight_kg} kg, {answer.height_mm} mm high
      </p>
      <MapStrip bins={map} why={why} from={answer.from_bin} />
      <Why why={why} />
    </div>
  )
}
