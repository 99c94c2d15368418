import Button from '@mui/material/Button'
import { useMutation, useQuery } from '@tanstack/react-query'
import { useEffect, useMemo } from 'react'
import { useFieldArray, useForm, useWatch, type UseFormRegisterReturn } from 'react-hook-form'

import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { useGroundChange } from '../parts/data'
import { Sheet } from '../parts/Sheet'
import { PictureField } from './PictureField'
import { Cells, Name, PARTS, View, words } from './Tables'
import { Entry, Pick } from '../parts/controls'

const MOST_PARTS = 200

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
  const { register, control, handleSubmit, reset, setValue } = useForm<{ cells: Cells; parts: Cells[] }>({
    defaultValues: {
      cells:
        row ??
        Object.fromEntries(
          view.columns.map((c) => [
            c,
            c === 'site' ? site : view.needed.includes(c) ? (view.choices[c]?.[0] ?? '') : '',
          ]),
        ),
      parts: [],
    },
  })
  const picture = useWatch({ control, name: 'cells.picture' }) ?? ''
  const { fields, append, remove: out } = useFieldArray({ control, name: 'parts' })
  const there = useQuery({
    queryKey: ['parts', part?.table, row?.[code], no],
    enabled: !!part,
    queryFn: () =>
      got(
        client.GET('/api/ground/tables/{table}', {
          params: {
            path: { table: part?.table ?? 'units' },
            query: {
              site: part?.table === 'order_lines' ? site : '',
              column: part?.owner,
              op: 'is',
              value: row?.[code] ?? '\u0001', // of a new row there are none yet
              most: MOST_PARTS,
            },
          },
        }),
      ),
  })
  const found = there.data
  const known = useMemo(
    () =>
      (found?.rows ?? []).map((r) => Object.fromEntries(found?.columns.map((c, n) => [c, r[n] ?? '']) ?? []) as Cells),
    [found],
  )
  const tooMany = (found?.total ?? 0) > known.length
  useEffect(() => {
    // the parts come after the row: they are put in as they are, and count as nothing that was written
    if (known.length) reset((now) => ({ ...now, parts: known }), { keepDirtyValues: true })
  }, [known, reset])
  const keep = useMutation({
    mutationFn: ({ cells, parts }: { cells: Cells; parts: Cells[] }) => {
      const whole = row ? { ...cells, [code]: row[code] ?? '' } : cells
      const sheets: Shape['SheetBody'][] = [{ table, rows: [whole] }]
      // what is sent replaces all parts there are: so they are sent only when somebody changed them, and saw them all
      if (part && found && !tooMany && JSON.stringify(parts) !== JSON.stringify(known))
        sheets.push({ table: part.table, rows: parts.map((p) => ({ ...p, [part.owner]: whole[code] ?? '' })) })
      return got(client.POST('/api/ground/rows', { body: { base: no, says: '', sheets, alter: null, gone: {} } }))
    },
    onSuccess: async (made) => {
      if (!made.applied) return
      // the form goes when what came of it is known: a row opened next is changed from there
      await change.amended(made)
      close()
    },
  })
  const remove = useMutation({
    mutationFn: () =>
      got(
        client.POST('/api/ground/rows', {
          body: {
            base: no,
            says: '',
            sheets: [],
            alter: null,
            gone: {
              [table]: [
                view.key
                  .map((c) => row?.[c] ?? '')
                  .filter(Boolean)
                  .join(', '),
              ],
            },
          },
        }),
      ),
    onSuccess: (made) => change.amended(made).then(close),
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
      <form className="bring" onSubmit={(e) => void handleSubmit((said) => keep.mutate(said))(e)}>
        <h2>{row ? <span className="code">{row[code]}</span> : `Another ${view.one}`}</h2>
        <div className="fields two-cols">
          {view.columns.map((c) => (
            <Field
              key={c}
              column={c}
              view={view}
              first={row?.[c] ?? ''}
              written={register(`cells.${c}`)}
              fixed={!!row && c === code}
            />
          ))}
        </div>
        {view.columns.includes('picture') && (
          <PictureField
            suggested={row?.[code] ?? ''}
            name={picture}
            mayEdit={mayEdit}
            set={(name) => setValue('cells.picture', name, { shouldDirty: true })}
          />
        )}
        {part && tooMany && (
          <p className="quiet">It has {found?.total.toLocaleString()} of them, too many for a form: bring a file in.</p>
        )}
        {part && there.data && !tooMany && (
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
                  {fields.map((field, n) => (
                    <tr key={field.id}>
                      {there.data.columns
                        .filter((c) => c !== part.owner)
                        .map((c) => (
                          <td key={c}>
                            <Entry aria-label={`${words(c)} ${n + 1}`} {...register(`parts.${n}.${c}`)} />
                          </td>
                        ))}
                      <td>
                        <button type="button" className="link" onClick={() => out(n)}>
                          out
                        </button>
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
            <Button onClick={() => append(firstPart(part.table, fields.length))}>
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
  first,
  written,
  fixed,
}: {
  column: string
  view: View
  first: string
  written: UseFormRegisterReturn
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
        <Pick {...written}>
          {(!needed || !choices.includes(first)) && <option value="">{needed ? 'choose' : 'as usual'}</option>}
          {choices.map((c) => (
            <option key={c} value={c}>
              {c.replace(/_/g, ' ')}
            </option>
          ))}
        </Pick>
      ) : (
        <Entry
          {...written}
          disabled={fixed}
          required={needed}
          inputMode={view.meant[column]?.includes('whole') ? 'numeric' : undefined}
        />
      )}
    </label>
  )
}
