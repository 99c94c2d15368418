import Button from '@mui/material/Button'
import { useMutation } from '@tanstack/react-query'
import { useContext, useEffect, useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'
import { useNavigate, useParams, useSearchParams } from 'react-router'
import { client, got, type Shape } from '../shared/client'
import { BinBench } from './BinBench'
import { DRAFT, type Edit, freeId, Say, useDraft, useEdits, valueAt } from './data'
import { Findings } from './Findings'
import { Words } from './Words'

type Rule = { id: string; on?: boolean; targets: { id: string }[] }

export function BinRules({ me }: { me: Shape['Me'] }) {
  const draft = useDraft()
  const { edit } = useEdits()
  const { rule: here } = useParams()
  const [bench, setBench] = useState(true)
  const mayEdit = me.rights.includes('edit_rulebook')
  useHotkeys('b', () => setBench((b) => !b))
  useEffect(() => {
    if (here) document.getElementById(here)?.scrollIntoView({ block: 'center' })
  }, [here, draft.isPending])
  return (
    <div className={`page${bench ? '' : ' wide'}`}>
      <main className="main">
        <GoOn />
        {!draft.data ? (
          draft.error ? <p className="empty">{draft.error.message}</p> : <Skeleton />
        ) : (
          draft.data.rule_lists.map((list) => (
            <section key={list.id}>
              <h1>{list.title}</h1>
              <p className="lead">Tried from the top. The first rule that finds a bin decides; if none does, the worker is asked.</p>
              <ol className="rules">
                {list.rules.map((rule, n) => (
                  <RuleRow key={rule.id} rule={rule} n={n} count={list.rules.length} list={list.path} draft={draft.data} edit={edit} mayEdit={mayEdit} here={rule.id === here} />
                ))}
              </ol>
              {list.rules.length === 0 && <p className="empty">There is no rule yet: every worker would be asked for a bin. Add the first one.</p>}
              {mayEdit && (
                <div className="form">
                  <Button onClick={() => edit([newRule(list.path, draft.data.book)], 'A rule was added.')}>Add a rule</Button>
                </div>
              )}
            </section>
          ))
        )}
      </main>
      {bench && <BinBench />}
    </div>
  )
}

function RuleRow(props: { rule: Shape['Sentence']; n: number; count: number; list: string; draft: Shape['DraftView']; edit: (e: Edit[], says: string) => void; mayEdit: boolean; here: boolean }) {
  const { rule, n, count, list, draft, edit, mayEdit, here } = props
  const move = (to: number) => {
    if (to < 0 || to >= count) return
    edit([{ op: 'move', path: rule.path, at: to }], `Rule ${n + 1} became rule ${to + 1}.`)
  }
  const [dragged, setDragged] = useState(false)
  return (
    <li
      id={rule.id}
      className={`rule${rule.on ? '' : ' off'}${here ? ' here' : ''}`}
      style={dragged ? { opacity: 0.4 } : undefined}
      draggable={mayEdit}
      onDragStart={(e) => {
        e.dataTransfer.setData('text/rule', rule.path)
        setDragged(true)
      }}
      onDragEnd={() => setDragged(false)}
      onDragOver={(e) => e.dataTransfer.types.includes('text/rule') && e.preventDefault()}
      onDrop={(e) => {
        const path = e.dataTransfer.getData('text/rule')
        if (path && path !== rule.path) edit([{ op: 'move', path, at: n }], `A rule was moved to place ${n + 1}.`)
      }}
      onKeyDown={(e) => {
        if (!e.altKey || !mayEdit) return
        if (e.key === 'ArrowUp') move(n - 1)
        if (e.key === 'ArrowDown') move(n + 1)
      }}
    >
      <span className="no">{n + 1}</span>
      <Words
        parts={rule.parts}
        book={draft.book}
        edit={edit}
        mayEdit={mayEdit}
        under={<Findings of={draft} under={rule.path} />}
        acts={
          mayEdit && (
            <>
              <button className="link" disabled={n === 0} onClick={() => move(n - 1)}>
                Up
              </button>
              <button className="link" disabled={n === count - 1} onClick={() => move(n + 1)}>
                Down
              </button>
              <button className="link" onClick={() => edit([addTarget(rule.path, draft.book)], `Rule ${n + 1}: a further place.`)}>
                Further place
              </button>
              <button className="link" onClick={() => edit([{ op: 'set', path: `${rule.path}/on`, value: !rule.on }], `Rule ${n + 1} ${rule.on ? 'switched off' : 'switched on'}.`)}>
                Switch {rule.on ? 'off' : 'on'}
              </button>
              <button className="link" onClick={() => edit([copyOf(list, rule, draft.book, n)], `Rule ${n + 1} was copied.`)}>
                Copy
              </button>
              <button className="link" onClick={() => edit([{ op: 'remove', path: rule.path }], `Rule ${n + 1} was removed.`)}>
                Remove
              </button>
            </>
          )
        }
      />
    </li>
  )
}

function allRules(book: unknown): Rule[] {
  return ((valueAt(book, 'bin_rules') ?? []) as { rules: Rule[] }[]).flatMap((l) => l.rules)
}

function freeTarget(book: unknown, also: string[] = []): string {
  return freeId('T', [...allRules(book).flatMap((r) => r.targets.map((t) => t.id)), ...also])
}

function newRule(list: string, book: unknown): Edit {
  const rules = allRules(book)
  const id = freeId('BR', rules.map((r) => r.id))
  return { op: 'insert', path: `${list}/rules`, value: { id, targets: [{ id: freeTarget(book), look_in: {}, wants: 'empty' }] } }
}

function addTarget(path: string, book: unknown): Edit {
  return { op: 'insert', path: `${path}/targets`, value: { id: freeTarget(book), look_in: {}, wants: 'any' } }
}

function copyOf(list: string, rule: Shape['Sentence'], book: unknown, n: number): Edit {
  const from = valueAt(book, rule.path) as Rule
  const made: string[] = []
  const targets = from.targets.map((t) => {
    const id = freeTarget(book, made)
    made.push(id)
    return { ...t, id }
  })
  return { op: 'insert', path: `${list}/rules`, value: { ...from, id: freeId('BR', allRules(book).map((r) => r.id)), targets }, at: n + 1 }
}

/** Shown when a run on the desk sent the analyst here: back to it, under the rules as they are now. */
function GoOn() {
  const [query] = useSearchParams()
  const go = useNavigate()
  const say = useContext(Say)
  const world = query.get('run')
  const seq = Number(query.get('at'))
  const branch = useMutation({
    mutationFn: () => got(client.POST('/api/worlds/{id}/branch', { params: { path: { id: world ?? '' } }, body: { seq, draft: DRAFT } })),
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
    <div aria-busy="true" aria-label="loading">
      {[70, 92, 60, 84, 50].map((w) => (
        <div key={w} className="skeleton" style={{ width: `${w}%` }} />
      ))}
    </div>
  )
}
