import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { FloorAsked, NoAnswer } from '../parts/bench'
import { Pick } from '../parts/controls'
import { DRAFT, useDraft } from '../parts/data'

type Made = Shape['CartonMade']
/** Items are told apart by these tints, each with its name beside it. */
const TINTS = ['#1E5B52', '#A9512B', '#4A5A86', '#B67A12', '#4F7A2E', '#7A4E7E', '#5C6B69', '#2F6F8F']

/** An order as the draft would pack it: cartons in three views, by which rule, how full and heavy, and what carriers take. */
export default function PackBench() {
  const draft = useDraft()
  const [world, setWorld] = useState('')
  const [order, setOrder] = useState('')
  const answer = useQuery({
    queryKey: ['bench', 'packing', world, order, draft.data?.rulebook],
    enabled: !!draft.data,
    placeholderData: (before) => before,
    retry: false,
    queryFn: () =>
      got(
        client.POST('/api/drafts/{id}/bench/packing', {
          params: { path: { id: DRAFT } },
          body: { world: world || null, order },
        }),
      ),
  })
  const packed = answer.data?.packed
  const items = [...new Map(packed?.cartons.flatMap((c) => c.things.map((t) => [t.item, t.name]))).entries()]
  const above = packed ? (packed.number ? packed.number - 1 : packed.passed.length) : 0
  const tint = (item: string) => TINTS[items.findIndex(([code]) => code === item) % TINTS.length] ?? '#5C6B69'
  return (
    <aside className="bench" aria-label="Bench">
      <h2>
        Bench <small className="quiet">pack this order</small>
      </h2>
      <div className="ask">
        <FloorAsked id="pack-floor" value={world} set={setWorld} />
        <label className="quiet" htmlFor="pack-order">
          Order
        </label>
        <Pick id="pack-order" value={order || packed?.order || ''} onChange={(e) => setOrder(e.target.value)}>
          {(answer.data?.orders ?? []).map((o) => (
            <option key={o}>{o}</option>
          ))}
        </Pick>
      </div>
      <NoAnswer error={answer.error} />
      {answer.data && !packed && <p className="empty">No order goes out from here.</p>}
      {packed && (
        <>
          <p>
            {packed.partner}, {packed.town}. {packed.number ? `Rule ${packed.number}` : 'No rule'} is for it
            {above > 0 && `, the ${above === 1 ? 'one' : above} above ${above === 1 ? 'is' : 'are'} for other orders`}.
          </p>
          {packed.says && <p className="mark doubt">▲ {packed.says}</p>}
          {packed.homeless.length > 0 && (
            <p className="mark fails" style={{ whiteSpace: 'normal' }}>
              ✕ Fits into no carton of its rule: {packed.homeless.join(', ')}.
            </p>
          )}
          {packed.cartons.length > 0 && (
            <p className="quiet">
              {packed.cartons.length === 1 ? '1 carton' : `${packed.cartons.length} cartons`}
              {packed.proved ? ', no fewer would do (proved)' : ', the fewest that were found'}.
            </p>
          )}
          {packed.cartons.slice(0, 8).map((c, n) => (
            <Drawn key={n} of={c} no={n + 1} tint={tint} />
          ))}
          {packed.cartons.length > 8 && <p className="quiet">and {packed.cartons.length - 8} more cartons.</p>}
          {items.length > 0 && (
            <ul className="keys" aria-label="What the tints are">
              {items.map(([code, name]) => (
                <li key={code}>
                  <i style={{ background: tint(code) }} /> {name} <span className="code">{code}</span>
                </li>
              ))}
            </ul>
          )}
          {packed.offers.length > 0 && (
            <table className="plain" aria-label="What carriers would take">
              <tbody>
                {packed.offers.map((o) => (
                  <tr key={`${o.carrier} ${o.service}`}>
                    <td>
                      <span className="code">{o.carrier}</span> {o.service}
                    </td>
                    <td className="mono" style={{ textAlign: 'right' }}>
                      {o.price ?? '–'}
                    </td>
                    <td className="quiet">
                      <Told text={o.says} />
                      {o.by_volume > 0 && `, ${o.by_volume} by size`}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </>
      )}
      <p className="quiet">Nothing is packed, and nothing stored.</p>
    </aside>
  )
}

/** A carton from above, from the front and from the side, to one scale. */
function Drawn({ of: c, no, tint }: { of: Made; no: number; tint: (item: string) => string }) {
  const scale = 330 / (c.length + c.width + 60)
  const views = [
    [
      'from above',
      c.length,
      c.width,
      (t: Made['things'][number]) => [t.x, c.width - t.y - t.width, t.length, t.width, t.z],
    ],
    [
      'from the front',
      c.length,
      c.height,
      (t: Made['things'][number]) => [t.x, c.height - t.z - t.height, t.length, t.height, -t.y],
    ],
    [
      'from the side',
      c.width,
      c.height,
      (t: Made['things'][number]) => [t.y, c.height - t.z - t.height, t.width, t.height, t.x],
    ],
  ] as const
  return (
    <figure className="packed">
      <figcaption>
        {no}. {c.name}, {c.full} % full, {(c.weight_g / 1000).toFixed(2)} kg
        {c.bears !== null && ` (${c.bears} % of what it bears)`}, {c.things.length}{' '}
        {c.things.length === 1 ? 'thing' : 'things'}
      </figcaption>
      <div className="three">
        {views.map(([says, wide, high, at]) => (
          <svg
            key={says}
            width={wide * scale}
            height={high * scale}
            viewBox={`0 0 ${wide} ${high}`}
            role="img"
            aria-label={`Carton ${no} ${says}`}
          >
            <rect width={wide} height={high} fill="var(--tint)" stroke="var(--ink)" strokeWidth={3 / scale} />
            {[...c.things]
              .sort((one, two) => (at(one)[4] ?? 0) - (at(two)[4] ?? 0))
              .map((t, n) => {
                const [x, y, w, h] = at(t)
                return (
                  <rect
                    key={n}
                    x={x}
                    y={y}
                    width={w}
                    height={h}
                    fill={tint(t.item)}
                    fillOpacity={0.75}
                    stroke="var(--surface)"
                    strokeWidth={1 / scale}
                  >
                    <title>{t.name}</title>
                  </rect>
                )
              })}
          </svg>
        ))}
      </div>
    </figure>
  )
}
