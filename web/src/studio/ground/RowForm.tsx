import Button from '@mui/material/Button'
import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { useGroundChange } from '../parts/data'
import { Sheet } from '../parts/Sheet'
import { Cells, Name, PARTS, View, words } from './Tables'
import { Entry, Pick } from '../parts/controls'

/** One row as its columns, with its parts below; what is wrong is said beside it and nothing is lost. */
export function RowForm({
  table,
  view,
  row,
  no,
  site,
  mayEdit,
  close,
}: {
  table: Name
  view: View
  row: Cells | null
  no: number
  site: string
  mayEdit: boolean
  close: () => void
}) {
  const change = useGroundChange()
  const part = PARTS[table]
  const code = view.columns[0] ?? ''
  const [cells, setCells] = useState<Cells>(
    () =>
      row ??
      Object.fromEntries(
        view.columns.map((c) => [c, c === 'site' ? site : view.needed.includes(c) ? (view.choices[c]?.[0] ?? '') : '']),
      ),
  )
  const [parts, setParts] = useState<Cells[] | null>(row ? null : [])
  const there = useQuery({
    queryKey: ['parts', part?.table, row?.[code], no],
    enabled: !!part,
    queryFn: () =>
      got(
        client.GET('/api/ground/tables/{table}', {
          params: {
            path: { table: part?.table ?? 'units' },
            query: { site: part?.table === 'order_lines' ? site : '', find: row?.[code] ?? '\u0001' },
          },
        }),
      ),
  })
  const known =
    part && there.data
      ? there.data.rows
          .map((r) => Object.fromEntries(there.data.columns.map((c, n) => [c, r[n] ?? ''])))
          .filter((r) => r[part.owner] === row?.[code])
      : []
  const shown = parts ?? known
  const keep = useMutation({
    mutationFn: () => {
      const sheets: Shape['SheetBody'][] = [{ table, rows: [cells] }]
      if (part && parts)
        sheets.push({ table: part.table, rows: parts.map((p) => ({ ...p, [part.owner]: cells[code] ?? '' })) })
      return got(client.POST('/api/ground/rows', { body: { base: no, says: '', sheets, alter: null, gone: {} } }))
    },
    onSuccess: (made) => {
      if (made.applied) {
        change.amended(made)
        close()
      }
    },
  })
  const remove = useMutation({
    mutationFn: () =>
      got(
        client.POST('/api/ground/rows', {
          body: { base: no, says: '', sheets: [], alter: null, gone: { [table]: [row?.[code] ?? ''] } },
        }),
      ),
    onSuccess: (made) => (change.amended(made), close()),
  })
  const bad = keep.data && !keep.data.applied ? keep.data.bad : []
  return (
    <Sheet
      open
      onClose={close}
      fullWidth
      maxWidth={part ? 'md' : 'sm'}
      label={row ? (row[code] ?? view.one) : `Add ${view.one}`}
    >
      <form
        className="bring"
        onSubmit={(e) => {
          e.preventDefault()
          keep.mutate()
        }}
      >
        <h2>{row ? <span className="code">{row[code]}</span> : `Another ${view.one}`}</h2>
        <div className="fields two-cols">
          {view.columns.map((c) => (
            <Field
              key={c}
              column={c}
              view={view}
              value={cells[c] ?? ''}
              set={(value) => setCells({ ...cells, [c]: value })}
              fixed={!!row && c === code}
            />
          ))}
        </div>
        {part && there.data && (
          <>
            <h3>{part.says}</h3>
            <div className="scroll">
              <table className="plain parts">
                <thead>
                  <tr>
                    {there.data.columns
                      .filter((c) => c !== part.owner)
                      .map((c) => (
                        <th key={c}>{words(c)}</th>
                      ))}
                    <th>
                      <span className="sr">Acts</span>
                    </th>
                  </tr>
                </thead>
                <tbody>
                  {shown.map((p, n) => (
                    <tr key={n}>
                      {there.data.columns
                        .filter((c) => c !== part.owner)
                        .map((c) => (
                          <td key={c}>
                            <Entry
                              aria-label={`${words(c)} ${n + 1}`}
                              value={p[c] ?? ''}
                              onChange={(e) =>
                                setParts(shown.map((q, m) => (m === n ? { ...q, [c]: e.target.value } : q)))
                              }
                            />
                          </td>
                        ))}
                      <td>
                        <button
                          type="button"
                          className="link"
                          onClick={() => setParts(shown.filter((_, m) => m !== n))}
                        >
                          out
                        </button>
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
            <Button onClick={() => setParts([...shown, firstPart(part.table, shown.length)])}>
              Add a {part.table === 'units' ? 'unit' : 'line'}
            </Button>
          </>
        )}
        {bad.map((b, n) => (
          <p key={n} className="mark fails" style={{ whiteSpace: 'normal' }}>
            ✕ {[b.column && words(b.column), b.value && `“${b.value}”`].filter(Boolean).join(' ')}:{' '}
            <Told text={b.says} />
          </p>
        ))}
        {[keep.error, remove.error].map(
          (e) =>
            e && (
              <p key={e.message} className="mark fails" style={{ whiteSpace: 'normal' }}>
                ✕ <Told text={e.message} />
              </p>
            ),
        )}
        <div className="form">
          <Button type="submit" variant="contained" disabled={!mayEdit || keep.isPending}>
            {row ? 'Keep' : 'Add'}
          </Button>
          <Button onClick={close}>Close</Button>
          <span style={{ flex: 1 }} />
          {row && (
            <Button color="error" disabled={!mayEdit} onClick={() => remove.mutate()}>
              Take it out
            </Button>
          )}
        </div>
      </form>
    </Sheet>
  )
}

function firstPart(table: Name, there: number): Cells {
  if (table === 'order_lines') return { no: String(there + 1) }
  return there === 0 ? { code: 'pc', name: 'piece', plural: 'pieces', quantity: '1' } : {}
}

function Field({
  column,
  view,
  value,
  set,
  fixed,
}: {
  column: string
  view: View
  value: string
  set: (value: string) => void
  fixed: boolean
}) {
  const choices = view.choices[column]
  const needed = view.needed.includes(column)
  return (
    <label className="field">
      <span>
        {words(column)}
        {view.meant[column] && <span className="quiet"> {view.meant[column].replace('a whole number', '')}</span>}
      </span>
      {choices && !fixed ? (
        <Pick value={value} onChange={(e) => set(e.target.value)}>
          {(!needed || !choices.includes(value)) && <option value="">{needed ? 'choose' : 'as usual'}</option>}
          {choices.map((c) => (
            <option key={c} value={c}>
              {c.replace(/_/g, ' ')}
            </option>
          ))}
        </Pick>
      ) : (
        <Entry
          value={value}
          disabled={fixed}
          required={needed}
          onChange={(e) => set(e.target.value)}
          inputMode={view.meant[column]?.includes('whole') ? 'numeric' : undefined}
        />
      )}
    </label>
  )
}
