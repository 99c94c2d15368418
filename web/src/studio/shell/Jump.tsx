import InputBase from '@mui/material/InputBase'
import { useEffect, useState } from 'react'
import { useNavigate } from 'react-router'
import { useQuery } from '@tanstack/react-query'
import { client, got } from '../../shared/client'
import { DRAFT, useDraft, useRehearsals, useWorlds } from '../parts/data'
import { CHAPTERS } from './chapters'
import { Sheet } from '../parts/Sheet'

/** Search everything that has a page: chapters, rules, flows, rehearsals, runs, items, orders, bins, what is on the floor. */
export function Jump({ open, close }: { open: boolean; close: () => void }) {
  return (
    <Sheet open={open} onClose={close} fullWidth maxWidth="sm" label="Search or jump">
      {open && <Search close={close} />}
    </Sheet>
  )
}

function Search({ close }: { close: () => void }) {
  const go = useNavigate()
  const rulebook = useDraft().data?.rulebook
  const places = useQuery({
    queryKey: ['bench', 'places', DRAFT, rulebook],
    enabled: rulebook !== undefined,
    queryFn: () => got(client.GET('/api/drafts/{id}/places', { params: { path: { id: DRAFT } } })),
  })
  const rehearsals = useRehearsals().data?.rehearsals ?? []
  const worlds = useWorlds().data?.worlds ?? []
  const [text, setText] = useState('')
  const find = text.trim()
  const things = useQuery({
    queryKey: ['bench', 'search', DRAFT, find],
    enabled: find.length >= 2,
    placeholderData: (before) => before,
    queryFn: () => got(client.GET('/api/drafts/{id}/search', { params: { path: { id: DRAFT }, query: { find } } })),
  })
  const [at, setAt] = useState(0)
  const all = [
    ...CHAPTERS.flatMap(({ chapters }) => chapters.map(([label, to]) => ({ kind: 'chapter', label, to }))),
    ...(places.data?.places ?? []).map((p) => ({ kind: p.kind, label: p.says, to: `/${p.chapter}/${p.id}` })),
    ...rehearsals.map((r) => ({ kind: 'rehearsal', label: r.name, to: `/rehearsals/${r.id}` })),
    ...worlds
      .filter((w) => w.kind === 'rehearsal')
      .map((w) => ({ kind: 'run', label: `${w.name}, ${w.seq} entries`, to: `/desk/${w.id}` })),
  ]
  const found =
    find.length < 2 ? [] : (things.data?.hits ?? []).map(({ kind, label, link }) => ({ kind, label, to: link }))
  const told = all.filter((h) => `${h.kind} ${h.label}`.toLowerCase().includes(text.toLowerCase())).slice(0, 12)
  const hits = [...told, ...found].slice(0, 20)
  const waiting = places.isPending || (find.length >= 2 && (things.isPending || things.isPlaceholderData))
  const take = (to: string | undefined) => {
    if (to) void go(to)
    close()
  }
  const [hasty, setHasty] = useState(false)
  useEffect(() => {
    if (!hasty || waiting) return
    const timer = setTimeout(() => take(hits[at]?.to))
    return () => clearTimeout(timer)
  })
  return (
    <div className="editor" style={{ position: 'static', width: 'auto', maxHeight: 460, border: 0 }}>
      <header>
        <InputBase
          autoFocus
          sx={{ fontSize: 17, '& input': { textAlign: 'left !important' } }}
          placeholder="a rule, an item, an order, a bin, a number ..."
          slotProps={{ input: { 'aria-label': 'Search' } }}
          value={text}
          onChange={(e) => {
            setText(e.target.value)
            setAt(0)
          }}
          onKeyDown={(e) => {
            if (e.key === 'ArrowDown') setAt(Math.min(at + 1, hits.length - 1))
            if (e.key === 'ArrowUp') setAt(Math.max(at - 1, 0))
            if (e.key !== 'Enter') return
            if (places.isPending)
              setHasty(true) // what is in the rulebook is still on its way
            else take(hits[at]?.to)
          }}
        />
      </header>
      <ul tabIndex={0} aria-label="What was found">
        {hits.map((hit, n) => (
          <li key={hit.to} className={n === at ? 'on' : ''} onClick={() => take(hit.to)}>
            <span>{hit.label}</span>
            <small>{hit.kind}</small>
          </li>
        ))}
      </ul>
      {hits.length === 0 && (
        <p className="quiet" style={{ padding: 12 }}>
          Nothing here has that in its name.
        </p>
      )}
    </div>
  )
}
