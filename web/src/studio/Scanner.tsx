import Button from '@mui/material/Button'
import { useQuery } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { Link, useParams } from 'react-router'
import { client, got, type Shape } from '../shared/client'
import { Skeleton } from './BinRules'
import { DRAFT, useDraft, useEdits } from './data'
import { Findings } from './Findings'
import { HandPanel } from './HandPanel'
import { Words } from './Words'

/** Scanner flows as sentences, prompt by prompt, with the handset itself on the bench. */
export default function Scanner({ me }: { me: Shape['Me'] }) {
  const draft = useDraft()
  const { edit } = useEdits()
  const { flow: here } = useParams()
  const mayEdit = me.rights.includes('edit_rulebook')
  useEffect(() => {
    if (here) document.getElementById(here)?.scrollIntoView({ block: 'start' })
  }, [here, draft.isPending])
  return (
    <div className="page">
      <main className="main">
        <h1>Scanner flows</h1>
        <p className="lead">
          What the handset asks, in this order, and what must be scanned rather than believed. The handset on the right
          runs the draft.
        </p>
        {!draft.data ? (
          <Skeleton />
        ) : (
          draft.data.flows.map((flow) => (
            <section key={flow.id} id={flow.id} className="card">
              <h2>{flow.name}</h2>
              <div className="rule" style={{ display: 'block', border: 0, padding: 0, position: 'relative' }}>
                <Words parts={flow.parts} book={draft.data.book} edit={edit} mayEdit={mayEdit} />
              </div>
              <ol className="rules" style={{ marginTop: 8 }}>
                {flow.prompts.map((prompt, n) => (
                  <li key={prompt.id} className="rule" style={{ padding: '4px 8px' }}>
                    <span className="no">{n + 1}</span>
                    <div style={{ position: 'relative' }}>
                      <Words parts={prompt.parts} book={draft.data.book} edit={edit} mayEdit={mayEdit} />
                      <Findings of={draft.data} under={prompt.path} />
                    </div>
                  </li>
                ))}
              </ol>
              <div className="under">
                <span>{flow.menus.length ? `On the menu of ${flow.menus.join(' and ')}` : 'On no menu'}</span>
                <Findings
                  of={{
                    ...draft.data,
                    findings: draft.data.findings.filter(
                      (f) => f.place === flow.path || f.place === `${flow.path}/prompts`,
                    ),
                  }}
                  under={flow.path}
                />
              </div>
            </section>
          ))
        )}
      </main>
      {draft.data && <HandsetBench me={me} rulebook={draft.data.rulebook} />}
    </div>
  )
}

/** A world of the draft as it stands, with an order to receive and a plate to put away, for trying flows. */
function HandsetBench({ me, rulebook }: { me: Shape['Me']; rulebook: string }) {
  const [tries, setTries] = useState(0)
  const mayTry = me.rights.includes('rehearse')
  const world = useQuery({
    queryKey: ['bench', 'handset', rulebook, tries],
    enabled: mayTry,
    staleTime: Infinity,
    retry: false,
    queryFn: () => got(client.POST('/api/worlds', { body: { name: 'Handset bench', draft: DRAFT, book_seconds: 2 } })),
  })
  return (
    <aside className="bench" aria-label="Bench">
      <h2>
        Bench <small className="quiet">the draft on a handset</small>
      </h2>
      {!mayTry && <p className="quiet">Your role may look, not try.</p>}
      {world.error && <p className="mark fails">✕ {world.error.message}</p>}
      {world.data && (
        <>
          <HandPanel world={world.data.id} device="H1" person="mara" keepFocus={false} />
          <div className="form">
            <Button onClick={() => setTries(tries + 1)}>Begin again</Button>
            <Link className="link quiet" to={`/desk/${world.data.id}`}>
              Take this run to a desk
            </Link>
          </div>
        </>
      )}
    </aside>
  )
}
