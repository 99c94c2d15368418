import InputBase from '@mui/material/InputBase'
import { useQuery } from '@tanstack/react-query'
import { useEffect, useLayoutEffect, useRef, useState } from 'react'
import { client, got, type Shape } from '../../shared/client'
import { Entry } from './controls'
import { DRAFT, type Edit } from './data'

export type Part = Shape['Part']
type Choice = Shape['Choice']
type Put = (edits: Edit[], says: string) => void
type Open = { path: string; field: string; value: unknown; from: HTMLElement }

/** The parts line by line, each with its place among all. */
function linesOf(parts: Part[]) {
  const lines: { at: Part['line']; from: number; parts: Part[] }[] = []
  parts.forEach((part, n) => {
    if (part.line || lines.length === 0) lines.push({ at: part.line, from: n, parts: [] })
    lines[lines.length - 1]?.parts.push(part)
  })
  return lines
}

/** A sentence of the core with its live words. Enter or a click on a word opens its editor under it. */
export function Words(props: {
  parts: Part[]
  edit: Put
  mayEdit: boolean
  under?: React.ReactNode
  acts?: React.ReactNode
  label?: string
  name?: Part | null
}) {
  const { parts, edit, mayEdit, under, acts, label, name } = props
  const [open, setOpen] = useState<Open | null>(null)
  const close = () => {
    open?.from.focus()
    setOpen(null)
  }
  const opens = (part: Part, from: HTMLElement) =>
    setOpen({ path: part.path, field: part.field, value: part.value, from })
  const word = (part: Part, n: number) => {
    const key = `${part.path} ${n}`
    return (
      // a span, not a button: a long word must wrap like the sentence it stands in
      <span
        key={key}
        role={mayEdit ? 'button' : undefined}
        tabIndex={mayEdit ? 0 : undefined}
        className={
          part.kind === 'add'
            ? 'link'
            : `word${open?.from.dataset.key === key ? ' open' : ''}${mayEdit ? '' : ' fixed'}`
        }
        data-key={key}
        data-field={part.field}
        aria-label={label && `${label}: ${part.text}`}
        aria-haspopup={mayEdit ? 'dialog' : undefined}
        onClick={(e) => mayEdit && opens(part, e.currentTarget)}
        onKeyDown={(e) => {
          if (!mayEdit || e.altKey || (e.key !== 'Enter' && e.key !== ' ')) return
          e.preventDefault()
          opens(part, e.currentTarget)
        }}
      >
        {part.kind === 'add' ? `+ ${part.text}` : part.text}
      </span>
    )
  }
  const adds = mayEdit ? parts.filter((p) => p.kind === 'add') : []
  const renames = mayEdit && name
  return (
    <div className="words">
      <div className="sentence">
        {linesOf(parts).map((line, n) => (
          <div key={n} className={line.at === 'in' ? 'line' : undefined}>
            {line.parts.map((part, m) =>
              part.kind === 'text' ? (
                <span key={m}>{part.text}</span>
              ) : part.kind === 'add' ? null : (
                word(part, line.from + m)
              ),
            )}
          </div>
        ))}
      </div>
      {(under || acts || renames || adds.length > 0) && (
        <div className="under">
          {under}
          <span className="acts">
            {adds.map((part, n) => word(part, parts.length + n))}
            {renames && (
              <button
                className="link"
                data-field={name.field}
                aria-haspopup="dialog"
                onClick={(e) => opens(name, e.currentTarget)}
              >
                Rename
              </button>
            )}
            {acts}
          </span>
        </div>
      )}
      {open && (
        <Editor
          key={`${open.path} ${open.field}`}
          open={open}
          edit={edit}
          close={close}
          descend={(field) =>
            setOpen({
              ...open,
              path: `${open.path}/${field}`,
              field,
              value: (open.value as Record<string, unknown> | null)?.[field],
            })
          }
        />
      )}
    </div>
  )
}

/** A value may be a record: a zone, where a bin is found. */
const same = (a: unknown, b: unknown) => a === b || JSON.stringify(a) === JSON.stringify(b)

function Editor(props: { open: Open; edit: Put; close: () => void; descend: (field: string) => void }) {
  const { open, edit, close, descend } = props
  const box = useRef<HTMLDivElement>(null)
  const [text, setText] = useState('')
  const [at, setAt] = useState(0)
  const [hasty, setHasty] = useState(false)
  const choices = useQuery({
    queryKey: ['choices', open.field, open.path],
    queryFn: () =>
      got(
        client.GET('/api/drafts/{id}/choices', {
          params: { path: { id: DRAFT }, query: { field: open.field, path: open.path } },
        }),
      ),
  })
  const value = open.value ?? null
  // what was ticked here counts at once: the next tick may come before the last one is saved
  const [mine, setMine] = useState<unknown[] | null>(null)
  const ticked: unknown[] = mine ?? (Array.isArray(value) ? value : [value])
  const found = (choices.data?.choices ?? []).filter((c) =>
    `${c.label} ${c.note}`.toLowerCase().includes(text.toLowerCase()),
  )
  const deeper = choices.data?.leads ?? false

  useLayoutEffect(() => {
    const word = open.from
    const card = box.current
    if (!card) return
    card.style.left = `${Math.min(word.offsetLeft, Math.max(0, (card.offsetParent?.clientWidth ?? 600) - 390))}px`
    card.style.top = `${word.offsetTop + word.offsetHeight + 4}px`
    card.scrollIntoView({ block: 'nearest' })
  }, [open, choices.data])

  useEffect(() => {
    const outside = (e: MouseEvent) => {
      if (!box.current?.contains(e.target as Node) && !open.from.contains(e.target as Node)) close()
    }
    document.addEventListener('mousedown', outside)
    return () => document.removeEventListener('mousedown', outside)
  }, [open, close])

  const labels = (values: unknown[]) =>
    values.map((v) => choices.data?.choices.find((c) => same(c.value, v))?.label ?? String(v)).join(', ') || 'any'
  const take = (choice: Choice | undefined) => {
    if (!choice || !choices.data) return
    if (deeper) return descend(choice.value as string)
    const many = choices.data.many
    const next = !many
      ? choice.value
      : ticked.some((t) => same(t, choice.value))
        ? ticked.filter((t) => !same(t, choice.value))
        : [...ticked.filter((t) => t !== null), choice.value]
    if (many) setMine(next as unknown[])
    edit(
      [{ op: 'set', path: open.path, value: next }],
      `${choices.data.title}: ${!many ? choice.label : labels(next as unknown[])}.`,
    )
    if (!many) close()
  }
  useEffect(() => {
    if (!hasty || !choices.data || choices.data.entry) return
    const timer = setTimeout(() => {
      setHasty(false)
      take(found[at])
    })
    return () => clearTimeout(timer)
  })
  if (choices.data?.entry)
    return (
      <div className="editor" ref={box} role="dialog" aria-label={choices.data.title}>
        <EntryForm
          choices={choices.data}
          value={value}
          typed={text}
          hasty={hasty}
          close={close}
          put={(next, told) => edit([{ op: 'set', path: open.path, value: next }], `${choices.data.title}: ${told}.`)}
        />
      </div>
    )
  return (
    <div className="editor" ref={box} role="dialog" aria-label={choices.data?.title ?? 'Choices'}>
      <header>
        <span>{choices.data?.title ?? '…'}</span>
        <InputBase
          autoFocus
          slotProps={{ input: { 'aria-label': 'Type to filter' } }}
          placeholder={choices.data?.many ? 'type to filter, Enter ticks' : 'type to filter'}
          value={text}
          onChange={(e) => {
            setText(e.target.value)
            setAt(0)
          }}
          onKeyDown={(e) => {
            e.stopPropagation()
            if (e.key === 'Escape') close()
            if (e.key === 'ArrowDown') setAt(Math.min(at + 1, found.length - 1))
            if (e.key === 'ArrowUp') setAt(Math.max(at - 1, 0))
            if (e.key === 'Enter') {
              if (choices.data) take(found[at])
              else setHasty(true) // the choices are still on their way: taken when they come
            }
            if (e.key === 'Tab') close()
          }}
        />
      </header>
      <ul
        onMouseDown={(e) => e.preventDefault() /* the filter keeps the focus */}
        role="listbox"
        tabIndex={0}
        aria-label={choices.data?.title ?? 'Choices'}
        aria-multiselectable={choices.data?.many ?? false}
      >
        {found.slice(0, 200).map((choice, n) => {
          const on = ticked.some((t) => same(t, choice.value))
          return (
            <li
              key={typeof choice.value === 'string' ? choice.value : JSON.stringify(choice.value)}
              role="option"
              aria-selected={on}
              className={n === at ? 'on' : ''}
              onMouseEnter={() => setAt(n)}
              onClick={() => take(choice)}
            >
              <span>
                {!deeper && <span className="tick">{on ? '✓' : ''}</span>}
                {choice.label}
              </span>
              <small>{choice.note}</small>
            </li>
          )
        })}
      </ul>
      {choices.data && found.length === 0 && (
        <p className="quiet" style={{ padding: '0 12px 8px' }}>
          Nothing here reads like that.
        </p>
      )}
    </div>
  )
}

type Span = { least?: number | null; most?: number | null }

/** A number, or a range of which either end may stay open. Enter keeps it; empty takes it away. Who was quicker than the server
 * has `typed` already, and `hasty` pressed Enter: neither is lost. */
function EntryForm({
  choices,
  value,
  typed,
  hasty,
  put,
  close,
}: {
  choices: Shape['Choices']
  value: unknown
  typed: string
  hasty: boolean
  put: (value: unknown, told: string) => void
  close: () => void
}) {
  const range = choices.entry === 'range'
  const known = (range ? (value ?? {}) : { least: value }) as Span
  const text = choices.entry === 'text'
  const [least, setLeast] = useState(typed || (known.least?.toString() ?? ''))
  const [most, setMost] = useState(known.most?.toString() ?? '')
  const bad = text
    ? least.trim().length > choices.letters || (choices.needed && least.trim() === '')
    : [least, most].some((t) => t.trim() !== '' && !/^\d{1,12}$/.test(t.trim()))
  const keep = () => {
    if (bad) return
    if (text) {
      const said = least.trim() || null
      put(said, said ?? 'taken away')
      return close()
    }
    const from = least.trim() === '' ? null : Number(least)
    const to = most.trim() === '' ? null : Number(most)
    const next = range ? (from === null && to === null ? null : { least: from, most: to }) : from
    put(
      next,
      next === null
        ? 'taken away'
        : range
          ? `${from ?? '…'} to ${to ?? '…'} ${choices.unit}`
          : `${from} ${choices.unit}`,
    )
    close()
  }
  const first = useRef<HTMLInputElement>(null)
  const [untouched] = useState(typed === '')
  useLayoutEffect(() => {
    if (untouched) first.current?.select() // what is typed takes the place of what it held, as it does where one is quicker
  }, [untouched])
  const early = useRef(hasty)
  useEffect(() => {
    if (!early.current) return
    early.current = false
    keep()
  })
  return (
    <form
      className="entry"
      onSubmit={(e) => {
        e.preventDefault()
        keep()
      }}
      onKeyDown={(e) => {
        e.stopPropagation()
        if (e.key === 'Escape') close()
      }}
    >
      <b>{choices.title}</b>
      <span className="entry-row">
        <Entry
          ref={first}
          autoFocus
          inputMode={text ? 'text' : 'numeric'}
          style={text ? { width: 260, fontFamily: 'inherit' } : undefined}
          aria-label={range ? 'at least' : choices.title}
          placeholder={range ? 'at least' : 'none'}
          value={least}
          onChange={(e) => setLeast(e.target.value)}
        />
        {range && (
          <>
            to
            <Entry
              inputMode="numeric"
              aria-label="at most"
              placeholder="at most"
              value={most}
              onChange={(e) => setMost(e.target.value)}
            />
          </>
        )}
        <span className="quiet">{choices.unit}</span>
      </span>
      <span className="entry-row">
        <button className="link" type="submit" disabled={bad}>
          Keep it
        </button>
        {!choices.needed && (
          <button
            className="link quiet"
            type="button"
            onClick={() => {
              put(null, 'taken away')
              close()
            }}
          >
            Take it away
          </button>
        )}
        {bad && (
          <span className="mark doubt">
            ▲{' '}
            {text
              ? choices.needed
                ? `1 to ${choices.letters} letters`
                : `at most ${choices.letters} letters`
              : 'a whole number, not below zero'}
          </span>
        )}
      </span>
    </form>
  )
}
