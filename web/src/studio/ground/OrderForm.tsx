import Button from '@mui/material/Button'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useFieldArray, useForm, useWatch } from 'react-hook-form'
import { client, got, newId, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { useGround } from '../parts/data'
import { Sheet } from '../parts/Sheet'
import { Entry, Pick, Tick } from '../parts/controls'

type Order = Shape['InHostView']['order']
export const KINDS = [
  ['purchase', 'purchase order'],
  ['transfer', 'transfer in'],
  ['production', 'production output'],
  ['customer_return', 'announced return'],
  ['sales', 'sales order'],
  ['vendor_return', 'return to a vendor'],
  ['transfer_out', 'transfer out'],
] as const
type Written = {
  number: string
  kind: Order['kind']
  partner: string
  promised: string
  ship_to: string
  carrier: string
  service: string
  ship_by: string
  priority: string
  channel: string
  notice_needed: boolean
  transfer: string
  lines: Line[]
}
type Line = { no: number; item: string; unit: string; count: string; price: string; lot: string }

/** An order as the host's user writes it: a new one, or another version of one. */
export function OrderForm({
  order,
  world,
  close,
}: {
  order: Order | null
  world: Shape['HostView']
  close: () => void
}) {
  const queries = useQueryClient()
  const ground = useGround()
  const partners = useQuery({
    queryKey: ['parts', 'partners'],
    queryFn: () =>
      got(
        client.GET('/api/ground/tables/{table}', {
          params: { path: { table: 'partners' }, query: { site: '', find: '', most: 200 } },
        }),
      ),
  })
  const carriers = useQuery({
    queryKey: ['parts', 'carriers'],
    queryFn: () =>
      got(
        client.GET('/api/ground/tables/{table}', {
          params: { path: { table: 'carriers' }, query: { site: '', find: '', most: 200 } },
        }),
      ),
  })
  const items = ground.data?.items ?? []
  const unitOf = (line: Line) => items.find((i) => i.code === line.item)?.units.find((u) => u.code === line.unit)
  const { register, control, handleSubmit, setValue } = useForm<Written>({
    defaultValues: {
      number: order?.number ?? '',
      kind: order?.kind ?? 'purchase',
      partner: order?.partner ?? '',
      promised: order?.promised ?? world.clock.slice(0, 10),
      ship_to: order?.ship_to.join('\n') ?? '',
      carrier: order?.carrier ?? '',
      service: order?.service ?? '',
      ship_by: order?.ship_by ?? '',
      priority: String(order?.priority ?? 5),
      channel: order?.channel ?? '',
      notice_needed: order?.notice_needed ?? false,
      transfer: order?.transfer ?? '',
      lines: (order?.lines ?? []).map((x) => {
        const unit = items.find((i) => i.code === x.item)?.units.find((u) => u.code === x.unit)
        const count = String(x.quantity / (unit?.quantity ?? 1))
        return { no: x.no, item: x.item, unit: x.unit, count, price: String(x.net_price), lot: x.lot }
      }),
    },
  })
  const { fields, append, remove } = useFieldArray({ control, name: 'lines' })
  const lines = useWatch({ control, name: 'lines' })
  const kind = useWatch({ control, name: 'kind' })
  const first = (code: string) => items.find((i) => i.code === code)?.units.at(-1)?.code ?? ''
  const keep = useMutation({
    mutationFn: async ({ lines: asked, ...head }: Written) => {
      const site = ground.data?.site ?? ''
      const written = asked.map((x) => ({
        no: x.no,
        item: x.item.trim().toUpperCase(),
        unit: x.unit,
        quantity: Math.round(Number(x.count) * (unitOf(x)?.quantity ?? 1)) || 0,
        net_price: x.price || '0',
        lot: x.lot.trim(),
        serials: order?.lines.find((l) => l.no === x.no)?.serials ?? [],
        promised: order?.lines.find((l) => l.no === x.no)?.promised ?? null,
      }))
      const whole = {
        ...head,
        ...(order ? { kind: order.kind, partner: order.partner } : {}),
        number: order?.number ?? head.number.trim().toUpperCase(),
        site,
        ship_to: head.ship_to
          .split('\n')
          .map((told) => told.trim())
          .filter(Boolean),
        carrier: head.carrier || null,
        ship_by: head.ship_by || null,
        priority: Number(head.priority),
        lines: written,
        confirmed: false,
        shipped: order?.shipped ?? false,
        transfer: (order?.kind ?? head.kind).startsWith('transfer') ? head.transfer.trim() : '',
      }
      const answer = await got(
        client.POST('/api/worlds/{id}/commands', {
          params: { path: { id: world.world } },
          body: {
            id: newId(),
            act: { kind: 'write_order', order: whole },
            device: null,
            person: null,
            device_time: null,
            tray: false,
            lost: '',
          },
        }),
      )
      if (!answer.entry.done) throw new Error(answer.entry.says)
      return answer
    },
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ['world', world.world] })
      close()
    },
  })
  const named = (table: Shape['TableView'] | undefined, also: string) =>
    table?.rows.map((r) => ['code', 'name', also].map((column) => r[table.columns.indexOf(column)] ?? '')) ?? []
  const names = named(partners.data, 'group')
  const haulers = named(carriers.data, 'services')
  const carrier = useWatch({ control, name: 'carrier' })
  const services =
    haulers
      .find(([code]) => code === carrier)?.[2]
      ?.split(';')
      .filter(Boolean) ?? []
  return (
    <Sheet open onClose={close} fullWidth maxWidth="md" label={order ? order.number : 'Write an order'}>
      <form className="bring" onSubmit={(e) => void handleSubmit((said) => keep.mutate(said))(e)}>
        <h2>{order ? <span className="code">{order.number}</span> : 'An order in the host'}</h2>
        <div className="fields two-cols">
          <label className="field">
            <span>Number</span>
            <Entry required disabled={!!order} {...register('number')} />
          </label>
          <label className="field">
            <span>Kind</span>
            <Pick disabled={!!order} {...register('kind')}>
              {KINDS.map(([value, says]) => (
                <option key={value} value={value}>
                  {says}
                </option>
              ))}
            </Pick>
          </label>
          <label className="field">
            <span>Partner</span>
            <Pick required disabled={!!order} {...register('partner')}>
              <option value="">choose</option>
              {names.map(([code, name]) => (
                <option key={code} value={code}>
                  {name}
                </option>
              ))}
            </Pick>
          </label>
          <label className="field">
            <span>Promised</span>
            <Entry type="date" required {...register('promised')} />
          </label>
        </div>
        <details open={!!order && (order.ship_to.length > 0 || !!order.carrier || order.priority !== 5)}>
          <summary>Where, by whom and by when it goes</summary>
          <div className="fields two-cols">
            <label className="field">
              <span>Ship to</span>
              <textarea rows={3} placeholder="the partner’s address" {...register('ship_to')} />
            </label>
            <label className="field">
              <span>Ship by</span>
              <Entry type="date" {...register('ship_by')} />
            </label>
            <label className="field">
              <span>Carrier</span>
              <Pick {...register('carrier', { onChange: () => setValue('service', '') })}>
                <option value="">not said</option>
                {haulers.map(([code, name]) => (
                  <option key={code} value={code}>
                    {name}
                  </option>
                ))}
              </Pick>
            </label>
            <label className="field">
              <span>Service</span>
              <Pick {...register('service')} disabled={services.length === 0}>
                <option value="">not said</option>
                {services.map((service) => (
                  <option key={service} value={service}>
                    {service}
                  </option>
                ))}
              </Pick>
            </label>
            <label className="field">
              <span>Priority</span>
              <Pick {...register('priority')}>
                {[1, 2, 3, 4, 5, 6, 7, 8, 9].map((n) => (
                  <option key={n} value={n}>
                    {n === 1 ? '1, the first' : n === 5 ? '5, as most' : n === 9 ? '9, the last' : n}
                  </option>
                ))}
              </Pick>
            </label>
            <label className="field">
              <span>Channel</span>
              <Entry placeholder="shop, web, phone" {...register('channel')} />
            </label>
            <label className="field">
              <span>Notice</span>
              <span>
                <Tick {...register('notice_needed')} /> is to be given before goods come
              </span>
            </label>
            {kind.startsWith('transfer') && (
              <label className="field">
                <span>Transfer</span>
                <Entry placeholder="its number for both sites" {...register('transfer')} />
              </label>
            )}
          </div>
        </details>
        <h3>Lines</h3>
        <datalist id="order-items">
          {items.map((i) => (
            <option key={i.code} value={i.code}>
              {i.name}
            </option>
          ))}
        </datalist>
        <table className="plain parts">
          <thead>
            <tr>
              <th style={{ width: '30%' }}>Item</th>
              <th>How many</th>
              <th>Unit</th>
              <th>In base units</th>
              <th>Net price</th>
              <th>Lot</th>
              <th>
                <span className="sr">Acts</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {fields.map((field, n) => {
              const x = lines[n] ?? field
              const item = items.find((i) => i.code === x.item.trim().toUpperCase())
              const unit = unitOf(x)
              const base = Math.round(Number(x.count) * (unit?.quantity ?? 1))
              return (
                <tr key={field.id}>
                  <td>
                    <Entry
                      list="order-items"
                      aria-label={`Item ${n + 1}`}
                      required
                      {...register(`lines.${n}.item`, {
                        onChange: (e: { target: HTMLInputElement }) =>
                          first(e.target.value) && setValue(`lines.${n}.unit`, first(e.target.value)),
                      })}
                    />
                    <div className="quiet">{item?.name}</div>
                  </td>
                  <td>
                    <Entry
                      aria-label={`How many ${n + 1}`}
                      inputMode="numeric"
                      required
                      {...register(`lines.${n}.count`)}
                    />
                  </td>
                  <td>
                    <Pick
                      aria-label={`Unit ${n + 1}`}
                      value={x.unit}
                      onChange={(e) => setValue(`lines.${n}.unit`, e.target.value)}
                    >
                      {item?.units.map((u) => (
                        <option key={u.code} value={u.code}>
                          {u.plural}
                        </option>
                      ))}
                    </Pick>
                  </td>
                  <td className="num">
                    {Number.isFinite(base) && item
                      ? `${base.toLocaleString('en-GB')} ${item.units[0]?.plural ?? ''}`
                      : ''}
                  </td>
                  <td>
                    <Entry aria-label={`Net price ${n + 1}`} inputMode="decimal" {...register(`lines.${n}.price`)} />
                  </td>
                  <td>
                    <Entry aria-label={`Lot ${n + 1}`} placeholder="any" {...register(`lines.${n}.lot`)} />
                  </td>
                  <td>
                    <button type="button" className="link" onClick={() => remove(n)}>
                      out
                    </button>
                  </td>
                </tr>
              )
            })}
          </tbody>
        </table>
        <Button
          onClick={() =>
            append({
              no: Math.max(0, ...lines.map((x) => x.no)) + 1,
              item: '',
              unit: '',
              count: '1',
              price: '0',
              lot: '',
            })
          }
        >
          Add a line
        </Button>
        {keep.error && (
          <p className="mark fails" style={{ whiteSpace: 'normal' }}>
            ✕ <Told text={keep.error.message} />
          </p>
        )}
        <div className="form">
          <Button type="submit" variant="contained" disabled={keep.isPending || lines.length === 0}>
            {order ? 'Keep' : 'Put it into the host'}
          </Button>
          <Button onClick={close}>Close</Button>
        </div>
      </form>
    </Sheet>
  )
}
