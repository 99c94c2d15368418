import Button from '@mui/material/Button'
import { useMutation, useQuery } from '@tanstack/react-query'
import { useEffect, useMemo, useState } from 'react'
import { client, got } from '../../shared/client'
import { Told } from '../../shared/Told'
import { Entry, Pick, Tick } from '../parts/controls'
import { useGroundChange } from '../parts/data'
import { Skeleton } from '../parts/Skeleton'
import type { Head } from './Site'
import type { Cells } from './Tables'
import {
  aisleKey,
  away,
  type Drawn,
  type Hands,
  IDLE,
  isWhole,
  type Kind,
  type Layout,
  NOTHING,
  picture,
  sketched,
} from './ways'

const KINDS: Record<Kind, string> = {
  cross_aisle: 'Cross aisle',
  one_way: 'One-way aisle',
  dead_end: 'Dead end',
  goes_through: 'Goes through',
  blocked: 'Blocked stretch',
}
const HOW: Record<Kind, string> = {
  cross_aisle: 'Drag along where one walks from aisle to aisle.',
  one_way: 'Drag along an aisle, the way it is walked.',
  dead_end: 'Click the end of an aisle where nobody walks on.',
  goes_through: 'Click the end of an aisle where one walks on.',
  blocked: 'Drag along the stretch of an aisle or cross aisle that nobody walks.',
}

function useLayout(site: string, no: number) {
  return useQuery({
    queryKey: ['site map', 'walking', site, no],
    queryFn: () => got(client.GET('/api/ground/walking', { params: { query: { site } } })),
    placeholderData: (before) => before,
  })
}

/** How one walks at a site: what is declared, drawn on the map, and what the layout leaves open. */
export function Ways({
  site,
  no,
  wide,
  mayEdit,
  draw,
  sketch,
  pick,
}: {
  site: Head
  no: number
  /** From where to where the site goes, for cross aisles over all of it. */
  wide: { low: number; high: number }
  mayEdit: boolean
  draw: (drawn: Drawn) => void
  sketch: (hands: Hands) => void
  pick: (codes: string[]) => void
}) {
  const layout = useLayout(site.code, no).data
  const change = useGroundChange()
  const [cells, setCells] = useState<Cells | null>(null)
  /** The place of the whole cross aisle that is being changed, which is a row of the site. */
  const [own, setOwn] = useState<number | null>(null)
  const kind = cells?.kind as Kind | undefined

  const picked = useMemo<Drawn>(() => {
    if (!layout) return NOTHING
    const all = layout.ways.filter((w) => w.code !== cells?.code).map((w) => picture(layout, w.cells, '--dusk', wide))
    for (const finding of layout.findings)
      for (const answer of finding.answers.slice(0, 1)) {
        const open = picture(layout, answer.cells, '--ochre', wide)
        const [from, to] = open.lines[0]?.spots ?? []
        if (from && to)
          all.push({
            lines: [{ spots: [from, to], colour: '--ochre', width: 1.5, dash: [2, 4] }],
            tags: [{ at: [(from[0] + to[0]) / 2, (from[1] + to[1]) / 2], says: '?', colour: '--ochre' }],
          })
      }
    if (cells) all.push(picture(layout, cells, '--clay', wide))
    return { lines: all.flatMap((d) => d.lines), tags: all.flatMap((d) => d.tags) }
  }, [layout, cells, wide])
  useEffect(() => draw(picked), [picked, draw])
  useEffect(() => {
    if (!layout) return
    sketch({
      stroke: kind
        ? (from, to) => setCells((before) => before && sketched(layout, before.kind as Kind, before, from, to))
        : null,
      touch: (at, within) => {
        const met = layout.ways.find((w) => picture(layout, w.cells, '', wide).lines.some((l) => away(at, l) < within))
        if (met && mayEdit) {
          setOwn(null)
          setCells(met.cells)
        }
        return met !== undefined
      },
    })
  }, [layout, kind, sketch, wide, mayEdit])
  useEffect(
    () => () => {
      draw(NOTHING)
      sketch(IDLE)
    },
    [draw, sketch],
  )

  const send = useMutation({
    mutationFn: ({
      rows,
      gone,
      without,
      says,
    }: {
      rows: Cells[]
      gone: string[]
      without: number | null
      says: string
    }) =>
      got(
        client.POST('/api/ground/rows', {
          body: {
            // what is said stands on the layout it was seen in, which may be newer than the map; a row of the site on the site's
            base: without === null ? (layout?.no ?? no) : no,
            says,
            sheets: [
              ...(rows.length ? [{ table: 'ways' as const, rows }] : []),
              ...(without === null ? [] : [{ table: 'sites' as const, rows: [siteRow(site, layout, without)] }]),
            ],
            alter: null,
            gone: gone.length ? { ways: gone } : {},
          },
        }),
      ),
    onSuccess: async (made) => {
      await change.amended(made)
      if (made.applied) {
        setCells(null)
        setOwn(null)
      }
    },
    onError: (e) => change.failed(e),
  })
  if (!layout) return <Skeleton />
  const begin = (of: Kind) => {
    setOwn(null)
    setCells({ code: layout.free, site: site.code, kind: of, axis: of === 'cross_aisle' ? 'x' : '' })
  }
  const wrong = layout.findings.filter((f) => f.wrong).length
  return (
    <>
      <h2>
        How one walks here{' '}
        <small>
          {layout.findings.length === 0
            ? 'nothing is left open'
            : `${layout.findings.length} open${wrong ? `, ${wrong} wrong` : ''}`}
        </small>
      </h2>
      {layout.findings.map((f) => (
        <div key={f.says} className="pin" style={{ display: 'block' }}>
          <p className={`mark ${f.wrong ? 'fails' : 'doubt'}`} style={{ whiteSpace: 'normal', margin: 0 }}>
            {f.wrong ? '✕ ' : '▲ '}
            <Told text={f.says} />
          </p>
          <span className="form" style={{ margin: '4px 0 0' }}>
            {f.answers.map((a) => (
              <Button
                key={a.says}
                disabled={!mayEdit || send.isPending}
                onClick={() => send.mutate({ rows: [a.cells], gone: [], without: null, says: '' })}
              >
                {a.says}
              </Button>
            ))}
            {f.bins.length > 0 && (
              <button className="link quiet" onClick={() => pick(f.bins)}>
                show {f.bins.length === 1 ? 'the bin' : `${f.bins.length} bins`}
              </button>
            )}
          </span>
        </div>
      ))}
      {cells && kind ? (
        <OneWay
          key={cells.code}
          cells={cells}
          kind={kind}
          layout={layout}
          set={(more) => setCells({ ...cells, ...more })}
          close={() => (setCells(null), setOwn(null))}
          save={() => send.mutate({ rows: [cells], gone: [], without: own, says: '' })}
          busy={send.isPending}
          known={layout.ways.some((w) => w.code === cells.code)}
        />
      ) : (
        <>
          <h2 style={{ marginTop: 18 }}>Say how one walks</h2>
          <div className="form" style={{ margin: 0 }}>
            {(['cross_aisle', 'one_way', 'dead_end', 'blocked'] as const).map((k) => (
              <Button key={k} variant="outlined" disabled={!mayEdit} onClick={() => begin(k)}>
                {KINDS[k]}
              </Button>
            ))}
          </div>
        </>
      )}
      <h2 style={{ marginTop: 18 }}>Said so far</h2>
      <ul className="said">
        {layout.crosses
          .filter((c) => c.own)
          .map((c) => (
            <li key={`own ${c.at}`}>
              The cross aisle from west to east, {metres(c.at)} m north, over the whole width.
              <span>
                <button
                  className="link"
                  disabled={!mayEdit}
                  onClick={() => {
                    setOwn(c.at)
                    setCells({
                      code: layout.free,
                      site: site.code,
                      kind: 'cross_aisle',
                      axis: 'x',
                      at_mm: String(c.at),
                    })
                  }}
                >
                  change
                </button>
                <button
                  className="link"
                  disabled={!mayEdit || send.isPending}
                  aria-label={`take out the cross aisle at ${metres(c.at)} m`}
                  onClick={() =>
                    send.mutate({
                      rows: [],
                      gone: [],
                      without: c.at,
                      says: `The cross aisle at ${metres(c.at)} m was taken out.`,
                    })
                  }
                >
                  take out
                </button>
              </span>
            </li>
          ))}
        {layout.ways.map((w) => (
          <li key={w.code} className={w.code === cells?.code ? 'chosen' : ''}>
            {w.says} <span className="code">{w.code}</span>
            <span>
              <button className="link" disabled={!mayEdit} onClick={() => (setOwn(null), setCells(w.cells))}>
                change
              </button>
              <button
                className="link"
                disabled={!mayEdit || send.isPending}
                aria-label={`take out ${w.code}`}
                onClick={() => send.mutate({ rows: [], gone: [w.code], without: null, says: '' })}
              >
                take out
              </button>
            </span>
          </li>
        ))}
      </ul>
      {layout.ways.length + layout.crosses.length === 0 && (
        <p className="quiet">Nothing yet. Draw a cross aisle first.</p>
      )}
    </>
  )
}

const metres = (mm: number) => (mm / 1000).toLocaleString(undefined, { maximumFractionDigits: 1 })

/** A site's own row without one of its cross aisles. */
function siteRow(site: Head, layout: Layout | undefined, without: number): Cells {
  const left = (layout?.crosses ?? []).filter((c) => c.own && c.at !== without).map((c) => c.at)
  return { code: site.code, name: site.name, time_zone: site.time_zone, cross_aisles: left.join(';') }
}

/** One fact being said: drawn on the map, or written. */
function OneWay({
  cells,
  kind,
  layout,
  set,
  close,
  save,
  busy,
  known,
}: {
  cells: Cells
  kind: Kind
  layout: Layout
  set: (more: Cells) => void
  close: () => void
  save: () => void
  busy: boolean
  known: boolean
}) {
  const aisle = layout.aisles.find((a) => a.zone === cells.zone && a.name === cells.aisle)
  const crossing = kind === 'cross_aisle'
  const spanned = crossing || kind === 'blocked'
  const headings = crossing ? (cells.axis === 'y' ? ['south', 'north'] : ['west', 'east']) : (aisle?.ends ?? [])
  const whole = crossing && !cells.from_mm && !cells.to_mm
  return (
    <form
      style={{ marginTop: 18 }}
      onSubmit={(e) => {
        e.preventDefault()
        save()
      }}
    >
      <h2 style={{ marginTop: 0 }}>{KINDS[kind]}</h2>
      <p className="quiet">{HOW[kind]} Or write it here.</p>
      <div className="ask" style={{ gridTemplateColumns: '90px 1fr' }}>
        {!crossing && (
          <>
            <label htmlFor="w-aisle">Where</label>
            <Pick
              id="w-aisle"
              value={
                cells.aisle
                  ? aisleKey({ zone: cells.zone ?? '', name: cells.aisle })
                  : cells.axis
                    ? `${cells.axis} ${cells.at_mm}`
                    : ''
              }
              onChange={(e) => {
                const chosen = layout.aisles.find((a) => aisleKey(a) === e.target.value)
                const cross = layout.crosses.find((c) => `${c.axis} ${c.at}` === e.target.value)
                set({
                  zone: chosen?.zone ?? '',
                  aisle: chosen?.name ?? '',
                  axis: cross?.axis ?? '',
                  at_mm: cross ? String(cross.at) : '',
                  ...(kind === 'blocked' ? {} : { heading: chosen?.ends[1] ?? '' }),
                })
              }}
            >
              <option value="">choose, or draw</option>
              {kind === 'blocked' &&
                layout.crosses.map((c) => (
                  <option key={`${c.axis} ${c.at}`} value={`${c.axis} ${c.at}`}>
                    cross aisle at {metres(c.at)} m
                  </option>
                ))}
              {layout.aisles.map((a) => (
                <option key={aisleKey(a)} value={aisleKey(a)}>
                  aisle {a.name} of zone {a.zone}
                </option>
              ))}
            </Pick>
          </>
        )}
        {crossing && (
          <>
            <label htmlFor="w-axis">Runs</label>
            <Pick id="w-axis" value={cells.axis ?? 'x'} onChange={(e) => set({ axis: e.target.value, heading: '' })}>
              <option value="x">from west to east</option>
              <option value="y">from south to north</option>
            </Pick>
            <label htmlFor="w-at">{cells.axis === 'y' ? 'East, m' : 'North, m'}</label>
            <Metres id="w-at" mm={cells.at_mm ?? ''} set={(at_mm) => set({ at_mm })} />
          </>
        )}
        {spanned && (
          <>
            <label htmlFor="w-from">From, m</label>
            <Metres id="w-from" mm={cells.from_mm ?? ''} set={(from_mm) => set({ from_mm })} />
            <label htmlFor="w-to">To, m</label>
            <Metres id="w-to" mm={cells.to_mm ?? ''} set={(to_mm) => set({ to_mm })} />
          </>
        )}
        {crossing && (
          <>
            <span />
            <label>
              <Tick
                checked={whole}
                onChange={(e) => set(e.target.checked ? { from_mm: '', to_mm: '' } : { from_mm: '0', to_mm: '' })}
              />{' '}
              over the whole site
            </label>
          </>
        )}
        {kind !== 'blocked' && (
          <>
            <label htmlFor="w-heading">
              {kind === 'dead_end' || kind === 'goes_through' ? 'End in the' : 'Walked'}
            </label>
            <Pick id="w-heading" value={cells.heading ?? ''} onChange={(e) => set({ heading: e.target.value })}>
              {crossing ? <option value="">both ways</option> : <option value="">choose, or draw</option>}
              {headings.map((h) => (
                <option key={h} value={h}>
                  {kind === 'dead_end' || kind === 'goes_through' ? h : `towards ${h} only`}
                </option>
              ))}
            </Pick>
          </>
        )}
      </div>
      <span className="form" style={{ margin: 0 }}>
        <Button type="submit" variant="contained" disabled={!isWhole(cells) || busy}>
          {known ? 'Change it' : 'Put it down'}
        </Button>
        <Button onClick={close}>Leave it</Button>
      </span>
    </form>
  )
}

/** A length that is kept in millimetres and written in metres. */
function Metres({ id, mm, set }: { id: string; mm: string; set: (mm: string) => void }) {
  const [text, setText] = useState(mm === '' ? '' : String(Number(mm) / 1000))
  const [last, setLast] = useState(mm)
  if (last !== mm) {
    // drawn on the map meanwhile
    setLast(mm)
    if (mm !== said(text)) setText(mm === '' ? '' : String(Number(mm) / 1000))
  }
  return (
    <Entry
      id={id}
      style={{ width: 110, fontFamily: 'var(--mono)' }}
      inputMode="decimal"
      pattern="-?[0-9]+([.,][0-9]+)?"
      value={text}
      onChange={(e) => {
        setText(e.target.value)
        set(said(e.target.value))
      }}
    />
  )
}

function said(text: string): string {
  const value = Number(text.replace(',', '.'))
  return text.trim() === '' || Number.isNaN(value) ? '' : String(Math.round(value * 1000))
}
