import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useContext, useState } from 'react'
import { useNavigate, useParams, useSearchParams } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { when } from '../../shared/when'
import { Skeleton } from '../parts/Skeleton'
import { DRAFT, Say, useDraft, useGround } from '../parts/data'
import { Ground, Mark } from './Rehearsals'
import { Sheet } from '../parts/Sheet'

type View = Shape['RehearsalView']

/** One rehearsal: its steps, what came of each in the run that is shown, and where the first one differs, both answers
 * side by side; its runs and its versions. */
export default function RehearsalPage({ me }: { me: Shape['Me'] }) {
  const { id = '' } = useParams()
  const go = useNavigate()
  const say = useContext(Say)
  const queries = useQueryClient()
  const draft = useDraft()
  const site = useGround().data?.site
  const [query, setQuery] = useSearchParams()
  const [naming, setNaming] = useState(false)
  const [sure, setSure] = useState(false)
  const asked = Number(query.get('run')) || null
  const key = ['rehearsals', id, draft.data?.rulebook, asked]
  const found = useQuery({
    queryKey: key,
    queryFn: () =>
      got(client.GET('/api/rehearsals/{id}', { params: { path: { id }, query: { draft: DRAFT, run: asked } } })),
  })
  const show = (run: number | null) => setQuery(run ? { run: String(run) } : {})
  const taken = {
    onSuccess: (r: View) => {
      queries.setQueryData(['rehearsals', id, draft.data?.rulebook, r.shown?.id ?? null], r)
      void queries.invalidateQueries({ queryKey: ['rehearsals'] })
      show(r.shown?.id ?? null)
    },
    onError: (e: Error) => say(e.message),
  }
  const run = useMutation({
    mutationFn: (rulebook: string) =>
      got(client.POST('/api/rehearsals/{id}/run', { params: { path: { id } }, body: { rulebook, draft: DRAFT } })),
    ...taken,
  })
  const over = useMutation({
    mutationFn: () =>
      got(client.POST('/api/rehearsals/{id}/move-over', { params: { path: { id }, query: { draft: DRAFT } } })),
    ...taken,
  })
  const back = useMutation({
    mutationFn: (version: number) =>
      got(
        client.POST('/api/rehearsals/{id}/versions/{version}', {
          params: { path: { id, version }, query: { draft: DRAFT } },
        }),
      ),
    ...taken,
  })
  const open = useMutation({
    mutationFn: () =>
      got(client.POST('/api/rehearsals/{id}/open', { params: { path: { id } }, body: { rulebook: DRAFT, draft: '' } })),
    onSuccess: (w) => void go(`/desk/${w.id}`),
    onError: (e) => say(e.message),
  })
  const drop = useMutation({
    mutationFn: () => got(client.DELETE('/api/rehearsals/{id}', { params: { path: { id } } })),
    onSuccess: () => (void queries.invalidateQueries({ queryKey: ['rehearsals'] }), void go('/rehearsals')),
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
  const { head, steps, at_end, result, shown } = found.data
  const elsewhere = site !== undefined && site !== found.data.site
  const of = (step: string) => result?.steps.find((s) => s.id === step)
  return (
    <div className="page wide">
      <main className="main">
        <h1>{head.name}</h1>
        <p className="lead">{head.about || <span className="quiet">What it proves is not written down yet.</span>}</p>
        <div className="form">
          {may && (
            <>
              <Button variant="contained" disabled={run.isPending || elsewhere} onClick={() => run.mutate(DRAFT)}>
                Run on this draft
              </Button>
              <Button disabled={run.isPending} onClick={() => run.mutate('in-force')}>
                Run on what is in force
              </Button>
              <Button disabled={elsewhere} onClick={() => open.mutate()}>
                Open on a desk
              </Button>
              <Button onClick={() => setNaming(true)}>Rename</Button>
            </>
          )}
          <Button component="a" href={`/api/rehearsals/${id}/file`}>
            Take out as a file
          </Button>
          {may && <Button onClick={() => setSure(true)}>Clear away</Button>}
        </div>
        {elsewhere && (
          <div className="banner">
            <span>
              It is a rehearsal of {found.data.site_name}, and the draft chosen above is another site’s. Choose a draft
              of {found.data.site_name} to run it on.
            </span>
          </div>
        )}
        {head.behind && (
          <div className="banner">
            <span>
              It was made on the ground as it was before, and runs on that.
              {head.missing.length + head.changed.length === 0 ? (
                ' Nothing it names has changed.'
              ) : (
                <Ground head={head} />
              )}
            </span>
            {may && <Button onClick={() => over.mutate()}>Move it over to today’s</Button>}
          </div>
        )}
        <div className="two" style={{ marginBottom: 12 }}>
          <Standing title="On this draft" ran={head.last} shown={shown} show={show} />
          <Standing title="On what is in force" ran={head.in_force} shown={shown} show={show} />
        </div>
        {shown && (
          <p className="quiet">
            Shown is the run of {when(shown.at)} on {shown.on}, version {shown.version} (opening state{' '}
            <span className="code">{shown.opening.slice(0, 8)}</span>, engine {shown.engine}).
          </p>
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
              <th style={{ width: 52 }}>Step</th>
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
        <div className="two" style={{ marginTop: 24 }}>
          <section aria-label="Runs">
            <h2 style={{ fontSize: 17 }}>Runs</h2>
            {found.data.runs.length === 0 && <p className="quiet">It was not run yet.</p>}
            <ul className="runs">
              {found.data.runs.map((r) => (
                <li key={r.id}>
                  <Mark ran={{ ...r, current: true }} />
                  <span className="quiet">
                    <Told text={`${when(r.at)}, @${r.by}, on ${r.on}, version ${r.version}`} />
                  </span>
                  {r.id === shown?.id ? (
                    <b>shown</b>
                  ) : (
                    <button className="link" onClick={() => show(r.id)}>
                      Show
                    </button>
                  )}
                </li>
              ))}
            </ul>
          </section>
          <section aria-label="Versions">
            <h2 style={{ fontSize: 17 }}>Versions</h2>
            <ul className="runs">
              {found.data.versions.map((v) => (
                <li key={v.version}>
                  <b>{v.version}</b>
                  <span>
                    {v.says}
                    <span className="quiet">
                      <Told text={`: ${v.steps} steps, ${v.pins} expectations; ${when(v.at)}, @${v.by}`} />
                    </span>
                  </span>
                  {may && v.version !== head.version && (
                    <button className="link" onClick={() => back.mutate(v.version)}>
                      Go back to it
                    </button>
                  )}
                </li>
              ))}
            </ul>
          </section>
        </div>
      </main>
      {naming && <Rename view={found.data} close={() => setNaming(false)} taken={taken.onSuccess} />}
      <Sheet open={sure} onClose={() => setSure(false)} label="Clear the rehearsal away">
        <div style={{ padding: 20, maxWidth: 460 }}>
          <h2 style={{ margin: '0 0 8px' }}>Clear “{head.name}” away?</h2>
          <p className="quiet">
            Its {head.steps} steps, its versions and all results go, for good. Take it out as a file first if it may be
            wanted again.
          </p>
          <div className="form" style={{ margin: 0 }}>
            <Button onClick={() => setSure(false)}>Keep it</Button>
            <Button color="error" onClick={() => drop.mutate()}>
              Clear it away
            </Button>
          </div>
        </div>
      </Sheet>
    </div>
  )
}

function Standing({
  title,
  ran,
  shown,
  show,
}: {
  title: string
  ran: Shape['Ran'] | null
  shown: Shape['Ran'] | null
  show: (run: number) => void
}) {
  return (
    <div className="card" style={{ margin: 0 }}>
      <div className="quiet">{title}</div>
      <Mark ran={ran} />
      {ran && (
        <div className="quiet">
          <Told text={`${ran.on}, ${when(ran.at)}, @${ran.by}`} />{' '}
          {ran.id === shown?.id ? (
            <b>shown below</b>
          ) : (
            <button className="link" onClick={() => show(ran.id)}>
              Show it
            </button>
          )}
        </div>
      )}
    </div>
  )
}

function Rename({ view, close, taken }: { view: View; close: () => void; taken: (r: View) => void }) {
  const [name, setName] = useState(view.head.name)
  const [about, setAbout] = useState(view.head.about)
  const rename = useMutation({
    mutationFn: () =>
      got(
        client.PUT('/api/rehearsals/{id}', {
          params: { path: { id: view.head.id }, query: { draft: DRAFT } },
          body: { name, about },
        }),
      ),
    onSuccess: (r) => (taken(r), close()),
  })
  return (
    <Sheet open onClose={close} label="Rename the rehearsal" fullWidth maxWidth="sm">
      <form
        style={{ padding: 20, display: 'flex', flexDirection: 'column', gap: 14 }}
        onSubmit={(e) => {
          e.preventDefault()
          rename.mutate()
        }}
      >
        <TextField autoFocus label="Name" value={name} onChange={(e) => setName(e.target.value)} />
        <TextField label="What it proves" multiline value={about} onChange={(e) => setAbout(e.target.value)} />
        {rename.error && (
          <span className="mark fails" style={{ whiteSpace: 'normal' }}>
            ✕ {rename.error.message}
          </span>
        )}
        <div className="form" style={{ margin: 0 }}>
          <Button type="submit" variant="contained" disabled={name.trim().length < 2 || rename.isPending}>
            Keep it
          </Button>
          <Button onClick={close}>Not now</Button>
        </div>
      </form>
    </Sheet>
  )
}

function StepRow({
  step,
  result,
  first,
}: {
  step: Shape['StepView']
  result: Shape['StepResult'] | undefined
  first: boolean
}) {
  const side = result && (result.differs || result.fails) && result.was_says !== ''
  return (
    <tr className={first ? 'first' : undefined}>
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
        {check ? (
          <span className={`mark ${check.holds ? 'holds' : 'fails'}`}>{check.holds ? '✓ ' : '✕ '}</span>
        ) : (
          <span className="mark info">○ </span>
        )}
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
