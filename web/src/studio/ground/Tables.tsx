import Button from '@mui/material/Button'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import type { GridColDef } from '@mui/x-data-grid'
import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Navigate, useNavigate, useParams, useSearchParams } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { Grid, useRows, widthFor } from '../parts/Grid'
import { Sheet } from '../parts/Sheet'
import { Skeleton } from '../parts/Skeleton'
import { TabRow } from '../parts/TabRow'
import { BringIn } from './BringIn'
import { DRAFT, useDraft, useGroundChange, useGroundHead } from '../parts/data'
import { Findings } from '../parts/Findings'
import { RowForm } from './RowForm'
import { Entry, Pick } from '../parts/controls'

export type Name = Shape['SheetBody']['table']
export type View = Shape['TableView']
export type Cells = Record<string, string>
type Line = { row: string[]; cells: Cells }

const CATALOGUE: [Name, string][] = [
  ['items', 'Items'],
  ['barcodes', 'Barcodes'],
  ['partners', 'Partners'],
  ['channels', 'Channels'],
  ['home_bins', 'Home bins'],
  ['stock', 'Opening stock'],
  ['serials', 'Serial numbers'],
  ['plates', 'Plates'],
  ['carriers', 'Carriers'],
  ['rates', 'Rates'],
  ['carton_kinds', 'Cartons'],
  ['carts', 'Carts'],
  ['printers', 'Printers'],
  ['pack_stations', 'Pack stations'],
  ['trucks', 'Trucks'],
  ['bins', 'Bins'],
  ['zones', 'Zones'],
  ['bin_types', 'Bin types'],
  ['plate_kinds', 'Kinds of plates'],
  ['ways', 'Ways'],
  ['series', 'Numbering'],
]
/** Columns of a wide table that few look at; the person shows them. */
const ASIDE: Partial<Record<Name, string[]>> = {
  orders: ['shipped', 'ship_to', 'carrier', 'service', 'priority', 'channel', 'notice_needed', 'transfer'],
}
/** A table whose rows have parts in another: units of items, lines of orders. */
export const PARTS: Partial<Record<Name, { table: Name; owner: string; says: string }>> = {
  items: { table: 'units', owner: 'item', says: 'Units, the base unit first' },
  orders: { table: 'order_lines', owner: 'order', says: 'Lines; quantities in base units' },
}
export const words = (column: string) =>
  column.replace(/_kg$/, ' kg').replace(/_mm3$/, ' mm³').replace(/_mm$/, ' mm').replace(/_/g, ' ')

/** Everything the rules speak of, as tables: looked through, changed, brought in and taken out. */
export function Catalogue({ me }: { me: Shape['Me'] }) {
  const { table } = useParams()
  const go = useNavigate()
  if (!CATALOGUE.some(([t]) => t === table)) return <Navigate to="/catalogue/items" replace />
  return (
    <div className="page wide">
      <main className="main">
        <h1>Catalogue</h1>
        <p className="lead">
          What the rules speak of. A change makes the ground’s next state: drafts go along, worlds and results keep the
          one they began on.
        </p>
        <TabRow label="Tables" tabs={CATALOGUE} value={table ?? ''} choose={(t) => void go(`/catalogue/${t}`)} />
        <Rows key={table} table={table as Name} me={me} />
      </main>
    </div>
  )
}

/** The orders the host will have told of when a rehearsal begins. */
export function Orders({ me }: { me: Shape['Me'] }) {
  return (
    <div className="page wide">
      <main className="main">
        <h1>Orders</h1>
        <p className="lead">
          What the host knows when a rehearsal begins. A confirmed order is on the handset at once; the others wait
          until the office confirms them.
        </p>
        <Rows table="orders" me={me} />
      </main>
    </div>
  )
}

function Rows({ table, me }: { table: Name; me: Shape['Me'] }) {
  const head = useGroundHead()
  const change = useGroundChange()
  const [query, setQuery] = useSearchParams()
  const [find, setFind] = useState(query.get('find') ?? '')
  const at = useRows(table)
  const [open, setOpen] = useState<Cells | 'new' | null>(null)
  const [bringing, setBringing] = useState(false)
  const sites = head.data?.sites ?? []
  const site =
    query.get('site') ?? sites.find((s) => s.drafts.some((d) => d.id === DRAFT))?.code ?? sites[0]?.code ?? ''
  const no = head.data?.no ?? 0
  const rows = useQuery({
    queryKey: ['table', table, site, find, at.query, no],
    enabled: head.data !== undefined && at.ready,
    placeholderData: (before) => before,
    queryFn: () =>
      got(
        client.GET('/api/ground/tables/{table}', { params: { path: { table }, query: { ...at.query, site, find } } }),
      ),
  })
  const mayEdit = me.rights.includes('edit_rulebook')
  const test = useMutation({
    mutationFn: () => got(client.POST('/api/ground/test-order', { body: { base: no, site } })),
    onSuccess: (made) => change.done(made.says),
    onError: (e) => change.failed(e),
  })
  const confirm = useMutation({
    mutationFn: (row: Cells) =>
      got(
        client.POST('/api/ground/rows', {
          body: {
            base: no,
            says: `Order ${row.number} was ${row.confirmed === 'yes' ? 'taken back' : 'confirmed'}.`,
            sheets: [{ table: 'orders', rows: [{ ...row, confirmed: row.confirmed === 'yes' ? 'no' : 'yes' }] }],
            alter: null,
            gone: {},
          },
        }),
      ),
    onSuccess: (made) => change.amended(made),
    onError: (e) => change.failed(e),
  })
  const shown = useQuery({
    queryKey: ['draft', DRAFT, 'orders', no],
    enabled: table === 'orders',
    queryFn: () => got(client.GET('/api/drafts/{id}/orders', { params: { path: { id: DRAFT } } })),
  })
  const [why, setWhy] = useState<Shape['ShownView'] | null>(null)
  const draft = useDraft()
  const v = rows.data
  const cells = (row: string[]): Cells => Object.fromEntries((v?.columns ?? []).map((c, n) => [c, row[n] ?? '']))
  const columns: GridColDef<Line>[] = (v?.columns ?? []).map((field, n) => ({
    field,
    headerName: words(field),
    width: widthFor(
      words(field),
      (v?.rows ?? []).map((row) => row[n] ?? ''),
    ),
    ...(table !== 'orders' && n === (v?.columns.length ?? 0) - 1 ? { flex: 1 } : {}),
    minWidth: 64,
    align: v?.meant[field]?.includes('number') ? 'right' : 'left',
    headerAlign: v?.meant[field]?.includes('number') ? 'right' : 'left',
    valueGetter: (_, line) => line.row[n] ?? '',
    renderCell: ({ row: { row }, tabIndex }) => {
      const cell = row[n] ?? ''
      if (n === 0)
        return (
          <button className="link mono" tabIndex={tabIndex} onClick={() => setOpen(cells(row))}>
            {cell}
          </button>
        )
      const said = v?.choices[field] ? cell.replace(/_/g, ' ') : cell
      return /^[A-Z0-9][A-Z0-9.-]*$/.test(cell) || v?.meant[field] ? <span className="mono">{said}</span> : said
    },
  }))
  if (table === 'orders')
    columns.push(
      {
        field: 'acts',
        headerName: 'what can be done',
        sortable: false,
        filterable: false,
        width: widthFor('what can be done', []),
        renderCell: ({ row: { cells: order }, tabIndex }) => (
          <button className="link" tabIndex={tabIndex} disabled={!mayEdit} onClick={() => confirm.mutate(order)}>
            {order.confirmed === 'yes' ? 'take back' : 'confirm'}
          </button>
        ),
      },
      {
        field: 'handset',
        headerName: 'on the handset',
        sortable: false,
        filterable: false,
        flex: 2.5,
        minWidth: 170,
        renderCell: ({ row: { row }, tabIndex }) => {
          const order = shown.data?.orders.find((o) => o.order === row[0])
          if (!order) return <span className="quiet">the draft is for another site</span>
          return (
            <button className="link cut" tabIndex={tabIndex} aria-haspopup="dialog" onClick={() => setWhy(order)}>
              <span className={`mark ${order.shown ? 'holds' : 'doubt'}`}>{order.shown ? '● yes' : '○ no'}</span>{' '}
              {!order.shown && <Told text={order.says} />}
            </button>
          )
        },
      },
    )
  return (
    <>
      <div className="form">
        {sites.length > 1 && (
          <Pick aria-label="Site" value={site} onChange={(e) => setQuery({ site: e.target.value })}>
            {sites.map((s) => (
              <option key={s.code} value={s.code}>
                {s.code} {s.name}
              </option>
            ))}
          </Pick>
        )}
        <Entry
          style={{ width: 220 }}
          placeholder="type to narrow"
          aria-label="Find"
          value={find}
          onChange={(e) => {
            setFind(e.target.value)
            at.setPage(0)
          }}
        />
        {v && <span className="quiet">{v.total === 1 ? `1 ${v.one}` : `${v.total.toLocaleString()} ${v.many}`}</span>}
        <span style={{ flex: 1 }} />
        {table === 'orders' && (
          <Button variant="contained" disabled={!mayEdit || !site} onClick={() => test.mutate()}>
            A test order to receive
          </Button>
        )}
        <Button disabled={!mayEdit} onClick={() => setOpen('new')}>
          Add {v ? ('aeiou'.includes(v.one[0] ?? '') ? `an ${v.one}` : `a ${v.one}`) : 'one'}
        </Button>
        <Button disabled={!mayEdit} onClick={() => setBringing(true)}>
          Bring files in
        </Button>
        <Button component="a" href={`/api/ground/tables/${table}/file?form=csv&site=${site}`}>
          CSV
        </Button>
        <Button component="a" href={`/api/ground/tables/${table}/file?form=xlsx&site=${site}`}>
          XLSX
        </Button>
      </div>
      {rows.error && <p className="empty">{rows.error.message}</p>}
      {table === 'series' && draft.data && (
        <p className="under">
          <Findings under="series" />
        </p>
      )}
      {!v ? (
        <Skeleton />
      ) : v.total === 0 && !at.filter.items.length ? (
        <p className="empty">
          {find ? `Nothing here reads like “${find}”.` : `No ${v.many} yet. Add one, or bring a file in.`}
        </p>
      ) : (
        <Grid
          name={v.many}
          rows={v.rows.map((row) => ({ row, cells: cells(row) }))}
          total={v.total}
          columns={columns}
          at={at}
          aside={ASIDE[table]}
          loading={rows.isPlaceholderData}
          id={({ row }) => row.join('\u0001')}
          empty={`No ${v.many} read like that.`}
        />
      )}
      {open && v && (
        <RowForm
          table={table}
          view={v}
          row={open === 'new' ? null : open}
          no={no}
          site={site}
          mayEdit={mayEdit}
          close={() => setOpen(null)}
        />
      )}
      {why && <OnHandset order={why} close={() => setWhy(null)} />}
      {bringing && <BringIn site={site} close={() => setBringing(false)} />}
    </>
  )
}

/** Everything that must agree for an order to be on a handset, and how it stands. */
function OnHandset({ order, close }: { order: Shape['ShownView']; close: () => void }) {
  const title = `${order.order} is ${order.shown ? '' : 'not '}on a handset`
  return (
    <Sheet open onClose={close} label={title} fullWidth maxWidth="sm">
      <DialogTitle>{title}</DialogTitle>
      <DialogContent>
        <ul className="agrees">
          {order.agrees.map((a) => (
            <li key={a.says}>
              <span className={`mark ${a.holds ? 'holds' : 'fails'}`}>{a.holds ? '✓' : '✕'}</span>{' '}
              <Told text={a.says} />
            </li>
          ))}
        </ul>
      </DialogContent>
      <DialogActions>
        <Button autoFocus onClick={close}>
          Close
        </Button>
      </DialogActions>
    </Sheet>
  )
}
