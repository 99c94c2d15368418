import LinearProgress from '@mui/material/LinearProgress'
import {
  ColumnsPanelTrigger,
  DataGrid,
  FilterPanelTrigger,
  type GridColDef,
  type GridFilterModel,
  type GridRowIdGetter,
  type GridSortModel,
  type GridValidRowModel,
  getGridStringOperators,
  Toolbar,
} from '@mui/x-data-grid'
import Button from '@mui/material/Button'
import { type CSSProperties, useMemo, useState } from 'react'
import { useKept } from './kept'

type Kept = { shown: Record<string, boolean>; widths: Record<string, number>; sort: GridSortModel }
const FIRST: Kept = { shown: {}, widths: {}, sort: [] }
const PAGE = 100
const LOW = 34
const TALL = 54
/** While rows are on their way the grid says nothing of its own: it may hold nothing but rows, so the bar is beside it. */
const Coming = () => null

const OPS = { contains: 'has', equals: 'is', startsWith: 'begins', isEmpty: 'empty', isNotEmpty: 'filled' } as const
type Op = keyof typeof OPS

/** Which rows a long table asks the server for, and what keeps the choice: columns, widths and order follow the person. */
export function useRows(name: string) {
  const [kept, keep] = useKept<Kept>(`table ${name}`, FIRST)
  const [filter, setFilter] = useState<GridFilterModel>({ items: [] })
  const [page, setPage] = useState(0)
  const first = filter.items[0]
  const sorted = kept?.sort[0]
  return {
    kept,
    keep: (some: Partial<Kept>) => keep({ ...(kept ?? FIRST), ...some }),
    filter,
    setFilter: (next: GridFilterModel) => (setFilter(next), setPage(0)),
    page,
    setPage,
    ready: kept !== undefined,
    /** What to ask the server for. */
    query: {
      start: page * PAGE,
      most: PAGE,
      sort: sorted?.field ?? '',
      down: sorted?.sort === 'desc',
      column: first?.field ?? '',
      op: OPS[(first?.operator ?? 'contains') as Op],
      value: String(first?.value ?? ''),
    },
  }
}

const LETTER = 8.2
const AROUND = 28
/** How wide a column is that shows such texts under such a heading, within reason; px. */
export const widthFor = (heading: string, texts: string[]) =>
  Math.min(260, Math.max(64, AROUND + LETTER * Math.max(heading.length, ...texts.map((t) => t.length))))

/** A long table of which only what is seen is drawn: sorted and filtered by the server, its columns chosen by the person. */
export function Grid<R extends GridValidRowModel>({
  name,
  rows,
  total,
  columns,
  at,
  loading,
  id,
  empty,
  picked,
  fixed,
  tall,
  aside = [],
}: {
  /** The row that is shown beside it. */
  picked?: string
  /** The rows come in an order of their own and are narrowed elsewhere. */
  fixed?: boolean
  /** Columns that are shown when somebody asks for them. */
  aside?: string[]
  /** Rows of two lines, for tables with sentences in them. */
  tall?: boolean
  name: string
  rows: R[]
  total: number
  columns: GridColDef<R>[]
  at: ReturnType<typeof useRows>
  loading?: boolean
  id: GridRowIdGetter<R>
  empty: string
}) {
  const operators = useMemo(() => getGridStringOperators().filter((o) => o.value in OPS), [])
  const kept = at.kept ?? FIRST
  const drawn = columns.map((c) => {
    const width = kept.widths[c.field]
    const own = fixed ? { sortable: false, filterable: false } : { filterOperators: operators }
    return { ...own, ...c, ...(width ? { width, flex: undefined } : {}) } as GridColDef<R>
  })
  return (
    <div
      className={tall ? 'grid tall' : 'grid'}
      style={{ '--rows': Math.min(total, PAGE), '--row': `${tall ? TALL : LOW}px` } as CSSProperties}
    >
      {loading && <LinearProgress aria-label="Rows are on their way" className="coming" />}
      <DataGrid
        aria-label={name}
        rows={rows}
        columns={drawn}
        getRowId={id}
        rowCount={total}
        loading={loading}
        rowHeight={tall ? TALL : LOW}
        columnHeaderHeight={36}
        paginationMode="server"
        sortingMode="server"
        filterMode="server"
        pageSizeOptions={[PAGE]}
        paginationModel={{ page: at.page, pageSize: PAGE }}
        onPaginationModelChange={(to) => at.setPage(to.page)}
        sortModel={kept.sort}
        onSortModelChange={(sort) => (at.keep({ sort: [...sort] }), at.setPage(0))}
        filterModel={at.filter}
        onFilterModelChange={at.setFilter}
        filterDebounceMs={300}
        columnVisibilityModel={{ ...Object.fromEntries(aside.map((field) => [field, false])), ...kept.shown }}
        onColumnVisibilityModelChange={(shown) => at.keep({ shown })}
        onColumnWidthChange={({ colDef, width }) => at.keep({ widths: { ...kept.widths, [colDef.field]: width } })}
        hideFooter={total <= PAGE}
        hideFooterSelectedRowCount
        disableRowSelectionOnClick
        showToolbar
        disableColumnMenu
        getRowClassName={(row) => (row.id === picked ? 'picked' : '')}
        slots={{ toolbar: fixed ? ColumnsAlone : Tools, loadingOverlay: Coming }}
        localeText={{ noRowsLabel: empty, noResultsOverlayLabel: empty }}
      />
    </div>
  )
}

function ColumnsAlone() {
  return (
    <Toolbar>
      <ColumnsPanelTrigger render={<Button variant="text" />}>Columns</ColumnsPanelTrigger>
    </Toolbar>
  )
}

function Tools() {
  return (
    <Toolbar>
      <FilterPanelTrigger render={<Button variant="text" />}>Filter</FilterPanelTrigger>
      <ColumnsPanelTrigger render={<Button variant="text" />}>Columns</ColumnsPanelTrigger>
    </Toolbar>
  )
}
