import type { GridColDef, GridValidRowModel } from '@mui/x-data-grid'
import type { Shape } from '../../shared/client'

/** A column of codes, which line up. */
export const code = <R extends GridValidRowModel>(
  field: keyof R & string,
  headerName: string,
  flex = 1,
): GridColDef<R> => ({
  field,
  headerName,
  flex,
  minWidth: 80,
  renderCell: ({ value }) => <span className="mono">{value as string}</span>,
})

/** How far stock can be, in words, and what that means. */
export const LEVELS = [
  ['free', 'Free to use', 'in storage, for anybody to take'],
  ['promised', 'Promised', 'of that, promised to orders and in no bin for them yet'],
  ['kept', 'Kept', 'in storage, for somebody or in a closed bin'],
  ['on_its_way', 'On its way', 'received or carried, not in storage yet'],
  ['barred', 'Barred', 'to be inspected, in quarantine, damaged, expired'],
  ['noted', 'Noted', 'on what is being received: no stock yet'],
  ['not_booked', 'Not booked', 'of all that, the host does not know yet'],
] as const

/** How far the stock of one item is: what was noted, what has arrived and what is free are never one number. */
export function Levels({ of }: { of: Shape['LevelsView'] }) {
  return (
    <dl className="levels" aria-label={`How far ${of.item} is`}>
      {LEVELS.map(([field, word, what]) => (
        <div key={field} title={what}>
          <dt>{word}</dt>
          <dd>{of[field]}</dd>
          <dd className="quiet">{what}</dd>
        </div>
      ))}
      {of.till && (
        <div title="a copy of what is available, as old as its last renewal">
          <dt>The till says</dt>
          <dd>{of.till}</dd>
          <dd className="quiet">
            {of.till_minutes === 0
              ? 'as it is'
              : of.till_minutes === 1
                ? '1 minute old'
                : `${of.till_minutes} minutes old`}
          </dd>
        </div>
      )}
    </dl>
  )
}
