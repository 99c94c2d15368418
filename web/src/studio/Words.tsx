import { useQuery } from '@tanstack/react-query'
import { useEffect, useLayoutEffect, useRef, useState } from 'react'
import { client, got, type Shape } from '../shared/client'
import { DRAFT, type Edit, valueAt } from './data'

type Part = Shape['Part']
type Choice = Shape['Choice']

/** A sentence of the core with its live words. Enter or a click on a word opens its editor under it. */
export function Words(props: {
  parts: Part[]
  book: unknown
  edit: (edits: Edit[], says: string) => void
  mayEdit: boolean
  under?: React.ReactNode
  acts?: React.ReactNode
  inPlace?: boolean
}) {
  const { parts, book, edit, mayEdit, under, acts, inPlace } = props
  const [open, setOpen] = useState<{ path: string; field: string; from: HTMLElement } | null>(null)
  const close = () => {
    open?.from.focus()
    setOpen(null)
  }
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
        aria-haspopup={mayEdit ? 'dialog' : undefined}
        onClick={(e) => mayEdit && setOpen({ path: part.path, field: part.field, from: e.currentTarget })}
        onKeyDown={(e) => {
          if (!mayEdit || e.altKey || (e.key !== 'Enter' && e.key !== ' ')) return
          e.preventDefault()
          setOpen({ path: part.path, field: part.field, from: e.currentTarget })
        }}
      >
        {part.kind === 'add' ? `+ ${part.text}` : part.text}
      </span>
    )
  }
  // what a place lacks is added where its places are listed
  const adds = mayEdit ? parts.filter((p) => p.kind === 'add' && (inPlace || !p.path.includes('/targets/'))) : []
  return (
    <div style={{ position: 'relative' }}>
      <div className="sentence">
        {parts.map((part, n) =>
          part.kind === 'text' ? <span key={n}>{part.text}</span> : part.kind === 'add' ? null : word(part, n),
        )}
      </div>
      {(under || acts || adds.length > 0) && (
        <div className="under">
          {under}
          <span className="acts">
            {adds.map((part, n) => word(part, parts.length + n))}
            {acts}
          </span>
        </div>
      )}
      {open && (
        <Editor
          key={`${open.path} ${open.field}`}
          open={open}
          book={book}
          edit={edit}
          close={close}
          descend={(field) => setOpen({ ...open, path: `${open.path}/${field}`, field })}
        />
      )}
    </div>
  )
}

/** Words that are not there yet: what is chosen leads to choices of its own. */
const DEEPER = ['conditions', 'look_in', 'limit', 'take_limit']

function Editor(props: {
  open: { path: string; field: string; from: HTMLElement }
  book: unknown
  edit: (edits: Edit[], says: string) => void
  close: () => void
  descend: (field: string) => void
}) {
  const { open, book, edit, close, descend } = props
  const box = useRef<HTMLDivElement>(null)
  const [text, setText] = useState('')
  const [at, setAt] = useState(0)
  const [hasty, setHasty] = useState(false)
  const choices = useQuery({
    queryKey: ['choices', open.field],
    queryFn: () =>
      got(client.GET('/api/drafts/{id}/choices', { params: { path: { id: DRAFT }, query: { field: open.field } } })),
  })
  const value = valueAt(book, open.path)
  // what was ticked here counts at once: the next tick may come before the last one is saved
  const [mine, setMine] = useState<unknown[] | null>(null)
  const ticked: unknown[] = mine ?? (Array.isArray(value) ? value : [value])
  const found = (choices.data?.choices ?? []).filter((c) =>
    `${c.label} ${c.note}`.toLowerCase().includes(text.toLowerCase()),
  )
  const deeper = DEEPER.includes(open.field)

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
    values.map((v) => choices.data?.choices.find((c) => c.value === v)?.label ?? String(v)).join(', ') || 'any'
  const take = (choice: Choice | undefined) => {
    if (!choice || !choices.data) return
    if (deeper) return descend(choice.value as string)
    const many = choices.data.many
    const next = !many
      ? choice.value
      : ticked.includes(choice.value)
        ? ticked.filter((t) => t !== choice.value)
        : [...ticked.filter((t) => t !== undefined), choice.value]
    if (many) setMine(next as unknown[])
    edit(
      [{ op: 'set', path: open.path, value: next }],
      `${choices.data.title}: ${!many ? choice.label : labels(next as unknown[])}.`,
    )
    if (!many) close()
  }
  useEffect(() => {
    if (!hasty || !choices.data) return
    const timer = setTimeout(() => {
      setHasty(false)
      take(found[at])
    })
    return () => clearTimeout(timer)
  })
  if (choices.data?.entry)
    return (
      <div className="editor" ref={box} role="dialog" aria-label={choices.data.title}>
        <Entry
          choices={choices.data}
          value={value}
          close={close}
          put={(next, told) => edit([{ op: 'set', path: open.path, value: next }], `${choices.data.title}: ${told}.`)}
        />
      </div>
    )
  return (
    <div className="editor" ref={box} role="dialog" aria-label={choices.data?.title ?? 'Choices'}>
      <header>
        <span>{choices.data?.title ?? '…'}</span>
        <input
          autoFocus
          aria-label="Type to filter"
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
          const on = ticked.includes(choice.value)
          return (
            <li
              key={String(choice.value)}
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

/** A number, or a range of which either end may stay open. Enter keeps it; empty takes it away. */
function Entry({
  choices,
  value,
  put,
  close,
}: {
  choices: Shape['Choices']
  value: unknown
  put: (value: unknown, told: string) => void
  close: () => void
}) {
  const range = choices.entry === 'range'
  const known = (range ? (value ?? {}) : { least: value }) as Span
  const [least, setLeast] = useState(known.least?.toString() ?? '')
  const [most, setMost] = useState(known.most?.toString() ?? '')
  const bad = [least, most].some((t) => t.trim() !== '' && !/^\d{1,12}$/.test(t.trim()))
  const keep = () => {
    if (bad) return
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
        <input
          autoFocus
          className="input"
          inputMode="numeric"
          aria-label={range ? 'at least' : choices.title}
          placeholder={range ? 'at least' : 'none'}
          value={least}
          onChange={(e) => setLeast(e.target.value)}
        />
        {range && (
          <>
            to
            <input
              className="input"
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
        {bad && <span className="mark doubt">▲ a whole number, not below zero</span>}
      </span>
    </form>
  )
}
