import Button from '@mui/material/Button'
import { useMutation } from '@tanstack/react-query'
import { useContext, useEffect, useState } from 'react'
import { useNavigate, useParams, useSearchParams } from 'react-router'
import { client, got, type Shape } from '../shared/client'
import { BinBench } from './BinBench'
import { DRAFT, type Edit, freeId, Say, useDraft, useEdits, useOpenGoods, valueAt } from './data'
import { Findings } from './Findings'
import { Words } from './Words'

type Rule = { id: string; on?: boolean; targets: { id: string }[] }
type List = Shape['RuleList']

const PURPOSES: { purpose: string; tab: string; takes: boolean }[] = [
  { purpose: 'put_away', tab: 'Put away', takes: false },
  { purpose: 'pick_from', tab: 'Pick from', takes: true },
  { purpose: 'replenish_from', tab: 'Replenish from', takes: true },
  { purpose: 'replenish_to', tab: 'Replenish to', takes: false },
  { purpose: 'receive_into', tab: 'Receive into', takes: false },
  { purpose: 'inspect_at', tab: 'Inspect at', takes: false },
  { purpose: 'return_to', tab: 'Return to', takes: false },
  { purpose: 'sort_at', tab: 'Sort at', takes: false },
  { purpose: 'pack_at', tab: 'Pack at', takes: false },
  { purpose: 'stage_at', tab: 'Stage at', takes: false },
]

export function BinRules({ me }: { me: Shape['Me'] }) {
  const draft = useDraft()
  const { edit } = useEdits()
  const { rule: here } = useParams()
  const [query, setQuery] = useSearchParams()
  const mayEdit = me.rights.includes('edit_rulebook')
  useEffect(() => {
    if (here) document.getElementById(here)?.scrollIntoView({ block: 'center' })
  }, [here, draft.isPending])
  const lists = draft.data?.rule_lists ?? []
  const list =
    lists.find((l) => l.rules.some((r) => r.id === here)) ??
    lists.find((l) => l.purpose === query.get('for')) ??
    lists[0]
  const show = (purpose: string) => {
    const kept = new URLSearchParams(query)
    kept.set('for', purpose)
    setQuery(kept)
  }
  return (
    <div className="page">
      <main className="main">
        <GoOn />
        {!draft.data ? (
          draft.error ? (
            <p className="empty">{draft.error.message}</p>
          ) : (
            <Skeleton />
          )
        ) : (
          <>
            <Tabs
              lists={lists}
              list={list}
              show={show}
              keepRun={query}
              add={
                mayEdit
                  ? (purpose) => {
                      edit([newList(purpose, draft.data.book)], 'A list of bin rules was begun.')
                      show(purpose)
                    }
                  : undefined
              }
            />
            {list ? (
              <RulesOf list={list} draft={draft.data} edit={edit} mayEdit={mayEdit} here={here} />
            ) : (
              <p className="empty">There are no bin rules yet. Begin a list above.</p>
            )}
          </>
        )}
      </main>
      <BinBench purpose={list?.purpose ?? 'put_away'} takes={list?.takes ?? false} />
    </div>
  )
}

/** One tab a list; the purposes that have none yet stand in a menu. */
function Tabs({
  lists,
  list,
  show,
  keepRun,
  add,
}: {
  lists: List[]
  list?: List
  show: (purpose: string) => void
  keepRun: URLSearchParams
  add?: (purpose: string) => void
}) {
  const go = useNavigate()
  const missing = PURPOSES.filter((p) => !lists.some((l) => l.purpose === p.purpose))
  const open = (purpose: string) => {
    const kept = new URLSearchParams(keepRun)
    kept.set('for', purpose)
    void go(`/bin-rules?${kept.toString()}`)
  }
  return (
    <nav className="tabs" aria-label="Lists of bin rules">
      {PURPOSES.filter((p) => lists.some((l) => l.purpose === p.purpose)).map((p) => (
        <button key={p.purpose} aria-current={list?.purpose === p.purpose} onClick={() => open(p.purpose)}>
          {p.tab}
        </button>
      ))}
      {add && missing.length > 0 && (
        <select
          className="select"
          aria-label="Begin another list"
          value=""
          onChange={(e) => {
            add(e.target.value)
            show(e.target.value)
          }}
        >
          <option value="" disabled>
            + another list
          </option>
          {missing.map((p) => (
            <option key={p.purpose} value={p.purpose}>
              {p.tab}
            </option>
          ))}
        </select>
      )}
    </nav>
  )
}

function RulesOf({
  list,
  draft,
  edit,
  mayEdit,
  here,
}: {
  list: List
  draft: Shape['DraftView']
  edit: (e: Edit[], says: string) => void
  mayEdit: boolean
  here?: string
}) {
  const open = useOpenGoods(list.purpose)
  return (
    <section>
      <h1>{list.title}</h1>
      <p className="lead">
        {list.takes
          ? 'Tried from the top. What a rule leaves over goes on to the next; stock that is reserved, blocked or expired is never taken.'
          : 'Tried from the top. What a rule leaves over goes on to the next; if none has a bin, the worker is asked.'}
      </p>
      <ol className="rules">
        {list.rules.map((rule, n) => (
          <RuleRow
            key={rule.id}
            rule={rule}
            n={n}
            list={list}
            draft={draft}
            edit={edit}
            mayEdit={mayEdit}
            here={rule.id === here}
            reach={open.data?.reach.find((r) => r.rule === rule.id)}
            of={open.data?.lines.length ?? 0}
          />
        ))}
      </ol>
      {list.rules.length === 0 && (
        <p className="empty">There is no rule yet: every worker would be asked for a bin. Add the first one.</p>
      )}
      {mayEdit && (
        <div className="form">
          <Button onClick={() => edit([newRule(list, draft.book)], 'A rule was added.')}>Add a rule</Button>
          {list.rules.length === 0 && (
            <Button onClick={() => edit([{ op: 'remove', path: list.path }], 'A list of bin rules was removed.')}>
              Remove this list
            </Button>
          )}
        </div>
      )}
    </section>
  )
}

type Row = {
  rule: Shape['Sentence']
  n: number
  list: List
  draft: Shape['DraftView']
  edit: (e: Edit[], says: string) => void
  mayEdit: boolean
  here: boolean
  reach?: Shape['RuleReach']
  of: number
}

function RuleRow({ rule, n, list, draft, edit, mayEdit, here, reach, of }: Row) {
  const count = list.rules.length
  const move = (to: number) => {
    if (to < 0 || to >= count) return
    edit([{ op: 'move', path: rule.path, at: to }], `Rule ${n + 1} became rule ${to + 1}.`)
  }
  const [places, setPlaces] = useState(false)
  const drag = useDrag('rule', rule.path, mayEdit, (path) =>
    edit([{ op: 'move', path, at: n }], `A rule was moved to place ${n + 1}.`),
  )
  return (
    <li
      id={rule.id}
      className={`rule${rule.on ? '' : ' off'}${here || places ? ' here' : ''}`}
      {...drag}
      onKeyDown={(e) => {
        if (!e.altKey || !mayEdit) return
        if (e.key === 'ArrowUp') move(n - 1)
        if (e.key === 'ArrowDown') move(n + 1)
      }}
    >
      <span className="no">{n + 1}</span>
      <div>
        <Words
          parts={rule.parts}
          book={draft.book}
          edit={edit}
          mayEdit={mayEdit}
          under={
            <>
              {reach && rule.on && (
                <span>
                  looks at {reach.bins.toLocaleString('en')} {reach.bins === 1 ? 'bin' : 'bins'},{' '}
                  {reach.empty.toLocaleString('en')} empty; decides {reach.decides} of {of}{' '}
                  {list.takes ? 'items' : 'open lines'}
                </span>
              )}
              <Findings of={draft} under={rule.path} />
            </>
          }
          acts={
            mayEdit && (
              <>
                <button className="link" disabled={n === 0} onClick={() => move(n - 1)}>
                  Up
                </button>
                <button className="link" disabled={n === count - 1} onClick={() => move(n + 1)}>
                  Down
                </button>
                <button className="link" aria-expanded={places} onClick={() => setPlaces(!places)}>
                  Places
                </button>
                <button
                  className="link"
                  onClick={() =>
                    edit(
                      [{ op: 'set', path: `${rule.path}/on`, value: !rule.on }],
                      `Rule ${n + 1} ${rule.on ? 'switched off' : 'switched on'}.`,
                    )
                  }
                >
                  Switch {rule.on ? 'off' : 'on'}
                </button>
                <button
                  className="link"
                  onClick={() => edit([copyOf(list.path, rule, draft.book, n)], `Rule ${n + 1} was copied.`)}
                >
                  Copy
                </button>
                <button
                  className="link"
                  onClick={() => edit([{ op: 'remove', path: rule.path }], `Rule ${n + 1} was removed.`)}
                >
                  Remove
                </button>
              </>
            )
          }
        />
        {places && mayEdit && <Places rule={rule} draft={draft} edit={edit} takes={list.takes} />}
      </div>
    </li>
  )
}

/** The places a rule looks in, one a line: moved by drag, Alt+arrows or buttons, copied, removed. */
function Places({
  rule,
  draft,
  edit,
  takes,
}: {
  rule: Shape['Sentence']
  draft: Shape['DraftView']
  edit: (e: Edit[], says: string) => void
  takes: boolean
}) {
  const targets = ((valueAt(draft.book, rule.path) ?? { targets: [] }) as Rule).targets
  return (
    <ol className="places" aria-label="Places this rule looks in">
      {targets.map((target, n) => (
        <Place key={target.id} rule={rule} target={target} n={n} count={targets.length} draft={draft} edit={edit} />
      ))}
      <li>
        <button
          className="link"
          onClick={() =>
            edit(
              [
                {
                  op: 'insert',
                  path: `${rule.path}/targets`,
                  value: {
                    id: freeTarget(draft.book),
                    look_in: {},
                    wants: 'any',
                    prefer: takes ? ['fifo'] : ['walk_order'],
                  },
                },
              ],
              'A further place was added.',
            )
          }
        >
          + further place
        </button>
      </li>
    </ol>
  )
}

function Place({
  rule,
  target,
  n,
  count,
  draft,
  edit,
}: {
  rule: Shape['Sentence']
  target: { id: string }
  n: number
  count: number
  draft: Shape['DraftView']
  edit: (e: Edit[], says: string) => void
}) {
  const path = `${rule.path}/targets/${target.id}`
  const own = rule.parts.filter((p) => p.kind !== 'text' && (p.path === path || p.path.startsWith(`${path}/`)))
  const parts = own.flatMap((p, n) =>
    n && p.kind === 'word' ? [{ kind: 'text' as const, text: ', ', path: '', field: '' }, p] : [p],
  )
  const move = (to: number) =>
    to >= 0 && to < count && edit([{ op: 'move', path, at: to }], `Place ${n + 1} became place ${to + 1}.`)
  const drag = useDrag(`place of ${rule.id}`, path, true, (from) =>
    edit([{ op: 'move', path: from, at: n }], `A place was moved to ${n + 1}.`),
  )
  return (
    <li
      tabIndex={0}
      {...drag}
      onKeyDown={(e) => {
        if (!e.altKey) return
        if (e.key === 'ArrowUp' || e.key === 'ArrowDown') {
          e.stopPropagation()
          move(e.key === 'ArrowUp' ? n - 1 : n + 1)
        }
      }}
    >
      <span className="no">{n + 1}</span>
      <Words parts={parts} book={draft.book} edit={edit} mayEdit inPlace />
      <span className="acts">
        <button className="link" disabled={n === 0} onClick={() => move(n - 1)}>
          Up
        </button>
        <button className="link" disabled={n === count - 1} onClick={() => move(n + 1)}>
          Down
        </button>
        <button
          className="link"
          onClick={() =>
            edit(
              [
                {
                  op: 'insert',
                  path: `${rule.path}/targets`,
                  value: { ...(valueAt(draft.book, path) as object), id: freeTarget(draft.book) },
                  at: n + 1,
                },
              ],
              `Place ${n + 1} was copied.`,
            )
          }
        >
          Copy
        </button>
        <button className="link" onClick={() => edit([{ op: 'remove', path }], `Place ${n + 1} was removed.`)}>
          Remove
        </button>
      </span>
    </li>
  )
}

/** Drag and drop among things of one kind. */
function useDrag(kind: string, path: string, on: boolean, dropped: (path: string) => void) {
  const [dragged, setDragged] = useState(false)
  const type = `text/${kind.replace(/[^a-z0-9]+/gi, '-').toLowerCase()}`
  return {
    draggable: on,
    style: dragged ? { opacity: 0.4 } : undefined,
    onDragStart: (e: React.DragEvent) => {
      e.stopPropagation()
      e.dataTransfer.setData(type, path)
      setDragged(true)
    },
    onDragEnd: () => setDragged(false),
    onDragOver: (e: React.DragEvent) => e.dataTransfer.types.includes(type) && e.preventDefault(),
    onDrop: (e: React.DragEvent) => {
      const from = e.dataTransfer.getData(type)
      if (from && from !== path) dropped(from)
    },
  }
}

function allRules(book: unknown): Rule[] {
  return ((valueAt(book, 'bin_rules') ?? []) as { rules: Rule[] }[]).flatMap((l) => l.rules)
}

function freeTarget(book: unknown, also: string[] = []): string {
  return freeId('T', [...allRules(book).flatMap((r) => r.targets.map((t) => t.id)), ...also])
}

function newList(purpose: string, book: unknown): Edit {
  const lists = (valueAt(book, 'bin_rules') ?? []) as { id: string }[]
  return {
    op: 'insert',
    path: 'bin_rules',
    value: {
      id: freeId(
        'BL',
        lists.map((l) => l.id),
      ),
      purpose,
      rules: [],
    },
  }
}

function newRule(list: List, book: unknown): Edit {
  const id = freeId(
    'BR',
    allRules(book).map((r) => r.id),
  )
  const target = {
    id: freeTarget(book),
    look_in: {},
    wants: list.takes ? 'any' : 'empty',
    prefer: list.takes ? ['fifo'] : ['walk_order'],
  }
  return { op: 'insert', path: `${list.path}/rules`, value: { id, targets: [target] } }
}

function copyOf(list: string, rule: Shape['Sentence'], book: unknown, n: number): Edit {
  const from = valueAt(book, rule.path) as Rule
  const made: string[] = []
  const targets = from.targets.map((t) => {
    const id = freeTarget(book, made)
    made.push(id)
    return { ...t, id }
  })
  return {
    op: 'insert',
    path: `${list}/rules`,
    value: {
      ...from,
      id: freeId(
        'BR',
        allRules(book).map((r) => r.id),
      ),
      targets,
    },
    at: n + 1,
  }
}

/** Shown when a run on the desk sent the analyst here: back to it, under the rules as they are now. */
function GoOn() {
  const [query] = useSearchParams()
  const go = useNavigate()
  const say = useContext(Say)
  const world = query.get('run')
  const seq = Number(query.get('at'))
  const branch = useMutation({
    mutationFn: () =>
      got(
        client.POST('/api/worlds/{id}/branch', { params: { path: { id: world ?? '' } }, body: { seq, draft: DRAFT } }),
      ),
    onSuccess: (child) => void go(`/desk/${child.id}`),
    onError: (e) => say(e.message),
  })
  if (!world) return null
  return (
    <div className="banner">
      <span>A run on the desk waits at entry {seq}. Change a rule, then go on from there.</span>
      <Button variant="contained" onClick={() => branch.mutate()}>
        Go on under these rules
      </Button>
    </div>
  )
}

export function Skeleton() {
  return (
    <div role="status" aria-busy="true" aria-label="loading">
      {[70, 92, 60, 84, 50].map((w) => (
        <div key={w} className="skeleton" style={{ width: `${w}%` }} />
      ))}
    </div>
  )
}
