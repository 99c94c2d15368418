import Button from '@mui/material/Button'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'

import { client, got, type Shape } from '../../shared/client'
import { useGroundChange } from '../parts/data'

import { word } from './Site'
import { Entry, Pick } from '../parts/controls'

/** Bins picked on the map: what they are, and changed all at once. */
export function Picked({
  map,
  picked,
  no,
  mayEdit,
  none,
}: {
  map: Shape['SiteMap']
  picked: Set<string>
  no: number
  mayEdit: boolean
  none: () => void
}) {
  const change = useGroundChange()
  const [blocked, setBlocked] = useState('')
  const [height, setHeight] = useState('')
  const codes = [...picked]
  const at = codes.map((c) => map.code.indexOf(c)).filter((n) => n >= 0)
  const kinds = [...new Set(at.map((n) => map.kinds[map.kind[n] ?? 0]?.code ?? ''))]
  const zones = [...new Set(at.map((n) => map.zones[map.zone[n] ?? 0]?.code ?? ''))]
  const shut = codes.filter((c) => map.blocked[c] !== undefined)
  const one = codes.length === 1 ? at[0] : undefined
  const many = (n: number) => (n === 1 ? 'the bin' : `${n.toLocaleString()} bins`)
  const put = useMutation({
    mutationFn: (cells: Record<string, string>) => {
      const says = `${many(codes.length)} ${codes.length === 1 ? 'was' : 'were'} changed: ${Object.entries(cells)
        .map(([k, v]) => `${word(k)} ${v || 'none'}`)
        .join(', ')}.`
      return got(
        client.POST('/api/ground/rows', {
          body: {
            base: no,
            says: says[0]?.toUpperCase() + says.slice(1),
            sheets: [],
            alter: { table: 'bins', codes, cells },
            gone: {},
          },
        }),
      )
    },
    onSuccess: (made) => change.amended(made),
    onError: (e) => change.failed(e),
  })
  const remove = useMutation({
    mutationFn: () =>
      got(
        client.POST('/api/ground/rows', {
          body: { base: no, says: '', sheets: [], alter: null, gone: { bins: codes } },
        }),
      ),
    onSuccess: (made) => (none(), change.amended(made)),
    onError: (e) => change.failed(e),
  })
  const full = one === undefined ? null : map.fill[one]
  return (
    <>
      <h2>
        {one !== undefined ? <span className="code">{codes[0]}</span> : `${codes.length.toLocaleString()} bins`}{' '}
        <button className="link quiet" onClick={none}>
          let go
        </button>
      </h2>
      <p className="quiet">
        {one === undefined && (
          <>
            {codes.slice(0, 3).join(', ')} {codes.length > 3 && '…'}
            <br />
          </>
        )}
        in {zones.map((z) => map.zones.find((x) => x.code === z)?.name ?? z).join(', ')}
        {one !== undefined && (
          <>
            , level {(map.level[one] ?? 0) + 1}, turn {map.walk[one]} of the walk, at{' '}
            {((map.x[one] ?? 0) / 1000).toFixed(1)} m east and {((map.y[one] ?? 0) / 1000).toFixed(1)} m north;{' '}
            {full === 0 ? 'empty' : full === -1 ? 'holds goods' : `${full} % full`}
          </>
        )}
      </p>
      <div className="ask" style={{ gridTemplateColumns: '90px 1fr' }}>
        <label htmlFor="k-kind">Type</label>
        <Pick
          id="k-kind"

          value={kinds.length === 1 ? kinds[0] : ''}
          disabled={!mayEdit || put.isPending}
          onChange={(e) => put.mutate({ bin_type: e.target.value })}
        >
          {kinds.length > 1 && <option value="">several: choose one for all</option>}
          {map.kinds.map((k) => (
            <option key={k.code} value={k.code}>
              {k.name} ({k.limits})
            </option>
          ))}
        </Pick>
        <label htmlFor="k-block">Blocked</label>
        <span className="form" style={{ margin: 0 }}>
          {shut.length === codes.length ? (
            <>
              <span className="mark fails">✕ {map.blocked[codes[0] ?? '']}</span>
              <Button disabled={!mayEdit} onClick={() => put.mutate({ blocked: '' })}>
                Open {many(codes.length)}
              </Button>
            </>
          ) : (
            <>
              <Entry
                id="k-block"

                style={{ width: 150 }}
                placeholder="why, in a few words"
                value={blocked}
                onChange={(e) => setBlocked(e.target.value)}
              />
              <Button
                disabled={!mayEdit || blocked.trim().length < 3}
                onClick={() => put.mutate({ blocked: blocked.trim() })}
              >
                Block {many(codes.length)}
              </Button>
            </>
          )}
        </span>
        <label htmlFor="k-height">Height, m</label>
        <form
          className="form"
          style={{ margin: 0 }}
          onSubmit={(e) => {
            e.preventDefault()
            put.mutate({
              height_mm: height.trim() === '' ? '' : String(Math.round(Number(height.replace(',', '.')) * 1000)),
            })
          }}
        >
          <Entry
            id="k-height"

            style={{ width: 150 }}
            inputMode="decimal"
            pattern="[0-9]+([.,][0-9]+)?"
            placeholder="clear; none: no limit"
            value={height}
            onChange={(e) => setHeight(e.target.value)}
          />
          <Button type="submit" disabled={!mayEdit || put.isPending}>
            Set it
          </Button>
        </form>
      </div>
      <Button color="error" disabled={!mayEdit || remove.isPending} onClick={() => remove.mutate()}>
        Take {many(codes.length)} out
      </Button>
    </>
  )
}
