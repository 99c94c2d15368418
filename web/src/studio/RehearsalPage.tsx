import Button from '@mui/material/Button'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useContext } from 'react'
import { useNavigate, useParams } from 'react-router'
import { client, got, type Shape } from '../shared/client'
import { Told } from '../shared/Told'
import { Skeleton } from './BinRules'
import { DRAFT, Say, useDraft } from './data'
import { Mark } from './Rehearsals'

/** One rehearsal: its steps, what came of each, and where the first one differs, both answers side by side. */
export default function RehearsalPage({ me }: { me: Shape['Me'] }) {
  const { id = '' } = useParams()
  const go = useNavigate()
  const say = useContext(Say)
  const queries = useQueryClient()
  const draft = useDraft()
  const key = ['rehearsals', id, draft.data?.rulebook]
  const found = useQuery({ queryKey: key, queryFn: () => got(client.GET('/api/rehearsals/{id}', { params: { path: { id }, query: { draft: DRAFT } } })) })
  const run = useMutation({
    mutationFn: (rulebook: string) => got(client.POST('/api/rehearsals/{id}/run', { params: { path: { id } }, body: { rulebook } })),
    onSuccess: (r) => {
      queries.setQueryData(key, r)
      void queries.invalidateQueries({ queryKey: ['rehearsals'], exact: true })
    },
    onError: (e) => say(e.message),
  })
  const open = useMutation({
    mutationFn: () => got(client.POST('/api/rehearsals/{id}/open', { params: { path: { id } }, body: { rulebook: DRAFT } })),
    onSuccess: (w) => void go(`/desk/${w.id}`),
    onError: (e) => say(e.message),
  })
  const over = useMutation({
    mutationFn: () => got(client.POST('/api/rehearsals/{id}/move-over', { params: { path: { id }, query: { draft: DRAFT } } })),
    onSuccess: (r) => (queries.setQueryData(key, r), void queries.invalidateQueries({ queryKey: ['rehearsals'], exact: true })),
    onError: (e) => say(e.message),
  })
  const may = me.rights.includes('rehearse')
  if (found.error) return <main className="main empty">{found.error.message}</main>
  if (!found.data)
    return (
      <main className="main">
        <Skeleton />
      </main>
    )
  const { head, steps, at_end } = found.data
  const result = head.last?.result
  const of = (step: string) => result?.steps.find((s) => s.id === step)
  return (
    <div className="page wide">
      <main className="main">
        <h1>{head.name}</h1>
        <p className="lead">{head.about}</p>
        <div className="form">
          <Mark last={head.last} />
          {may && (
            <>
              <Button variant="contained" disabled={run.isPending} onClick={() => run.mutate(DRAFT)}>
                Run on this draft
              </Button>
              <Button disabled={run.isPending} onClick={() => run.mutate('in-force')}>
                Run on what is in force
              </Button>
              <Button onClick={() => open.mutate()}>Open on a desk</Button>
            </>
          )}
          <Button component="a" href={`/api/rehearsals/${id}/file`}>
            Take out as a file
          </Button>
        </div>
        {found.data.behind && (
          <div className="banner">
            <span>
              It was made on the ground as it was before, and runs on that. {found.data.missing.length > 0 && <>Today’s has no <Told text={found.data.missing.join(', ')} />.</>}
            </span>
            {may && <Button onClick={() => over.mutate()}>Move it over to today’s</Button>}
          </div>
        )}
        {result?.first_difference && (
          <div className="banner">
            <span>
              The first step that differs is <b>{result.first_difference}</b>. The steps after it ran all the same.
            </span>
          </div>
        )}
        <table className="plain" style={{ tableLayout: 'fixed' }}>
          <thead>
            <tr>
              <th style={{ width: 44 }}>Step</th>
              <th style={{ width: '24%' }}>What is done</th>
              <th>What came of it</th>
              <th style={{ width: '30%' }}>Expected</th>
            </tr>
          </thead>
          <tbody>
            {steps.map((step) => (
              <StepRow key={step.id} step={step} result={of(step.id)} first={result?.first_difference === step.id} />
            ))}
            <tr>
              <td className="mono">end</td>
              <td />
              <td />
              <td>
                <Expected expects={at_end} checks={result?.at_end} />
              </td>
            </tr>
          </tbody>
        </table>
      </main>
    </div>
  )
}

function StepRow({ step, result, first }: { step: Shape['StepView']; result: Shape['StepResult'] | undefined; first: boolean }) {
  const side = result && (result.differs || result.fails) && result.was_says !== ''
  return (
    <tr style={first ? { background: 'var(--clay-tint)' } : undefined}>
      <td className="mono">{step.id}</td>
      <td>
        <Told text={step.does} />
        <div className="quiet">
          <Told text={`@${step.by}`} />
        </div>
      </td>
      <td>
        {result && (
          <>
            {result.fails && <span className="mark fails">✕ fails </span>}
            {result.differs && !result.fails && <span className="mark doubt">▲ differs </span>}
            {side ? (
              <div className="two">
                <Came head="now" says={result.says} asks={result.asks} />
                <Came head="when recorded" says={result.was_says} asks={result.was_asks} />
              </div>
            ) : (
              <Came says={result.says} asks={result.asks} />
            )}
          </>
        )}
      </td>
      <td>
        <Expected expects={step.expects} checks={result?.checks} />
      </td>
    </tr>
  )
}

function Came({ head, says, asks }: { head?: string; says: string; asks: string }) {
  return (
    <div>
      {head && <div className="quiet">{head}</div>}
      <Told text={says} />
      {asks && <div className="quiet">then: {asks}</div>}
    </div>
  )
}

function Expected({ expects, checks }: { expects: string[]; checks: Shape['Checked'][] | undefined }) {
  return expects.map((text, n) => {
    const check = checks?.[n]
    return (
      <div key={n}>
        {check ? <span className={`mark ${check.holds ? 'holds' : 'fails'}`}>{check.holds ? '✓ ' : '✕ '}</span> : <span className="mark info">○ </span>}
        <Told text={text} />
        {check && !check.holds && (
          <div className="quiet">
            found: <Told text={check.found} />
          </div>
        )}
      </div>
    )
  })
}
