import Button from '@mui/material/Button'
import { replaceEqualDeep, useMutation, useQuery } from '@tanstack/react-query'
import { lazy, useContext, useEffect, useMemo, useRef, useState } from 'react'
import { useNavigate, useParams, useSearchParams } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { DRAFT, type Edit, Say, useDraft, useEdits } from './data'
import { Adding } from './Adding'
import { EffectsFirst } from './Effects'
import { Page, SectionView } from './Rows'
import { Skeleton } from './Skeleton'
import { TabRow } from './TabRow'
import { Entry } from './controls'

const BinBench = lazy(() => import('../rules/BinBench').then((m) => ({ default: m.BinBench })))
const JourneyBench = lazy(() => import('../rules/JourneyBench'))
const HandsetBench = lazy(() => import('../rules/HandsetBench'))
const AgreementBench = lazy(() => import('../rules/AgreementBench'))
const RefillBench = lazy(() => import('../rules/RefillBench'))
const TaskBench = lazy(() => import('../rules/TaskBench'))
const LabelBench = lazy(() => import('../rules/LabelBench'))
const GateBench = lazy(() => import('../rules/GateBench'))
const PackBench = lazy(() => import('../rules/PackBench'))
const ClassBench = lazy(() => import('../rules/ClassBench'))
const ReturnBench = lazy(() => import('../rules/ReturnBench'))
const CountBench = lazy(() => import('../rules/CountBench'))
const WaveBench = lazy(() => import('../rules/WaveBench'))

const FIRST_ROWS = 12
const MORE_ROWS = 24

/** The last page of each chapter and list that came. What is the same in the next one is kept as the same object, so that only
 * the rows that changed are drawn anew. */
const last = new Map<string, Shape['ChapterView']>()

/** Any chapter of the rulebook, drawn from what the core says of it: lists as tabs, rows of sentences, what can be added;
 * on the right its bench. */
export default function ChapterPage({ me, chapter }: { me: Shape['Me']; chapter: string }) {
  const draft = useDraft()
  const { part } = useParams()
  const [query, setQuery] = useSearchParams()
  const { edit } = useEdits()
  const [made, setMade] = useState('')
  const [find, setFind] = useState('')
  // of a long list only what is in sight is fetched and drawn; more comes as one scrolls
  const [most, setMost] = useState(FIRST_ROWS)
  const tab = query.get('for') ?? part ?? ''
  const [mark, setMark] = useState({ part, id: '' })
  const marked = mark.part === part ? mark.id : '' // another address marks another row
  const here = marked || made || (part ?? '')
  const mayEdit = me.rights.includes('edit_rulebook')
  const view = useQuery({
    queryKey: ['chapter', DRAFT, chapter, tab, draft.data?.rulebook, most, find],
    enabled: !!draft.data,
    placeholderData: (before, asked) => (asked?.queryKey[2] === chapter ? before : undefined),
    queryFn: async () => {
      const params = { path: { id: DRAFT, chapter }, query: { tab, most, find } }
      const came = await got(client.GET('/api/drafts/{id}/chapters/{chapter}', { params }))
      const key = `${chapter} ${came.page.tab} ${find}`
      const shared = replaceEqualDeep(last.get(key), came)
      last.set(key, shared)
      return shared
    },
  })
  const page = view.data?.page
  const shown = page?.tab ?? ''
  const computed = useQuery({
    queryKey: ['bench', 'facts', chapter, shown, draft.data?.rulebook],
    enabled: !!page && shown !== '',
    placeholderData: (before, asked) => (asked?.queryKey[3] === shown ? before : undefined),
    queryFn: () =>
      got(
        client.GET('/api/drafts/{id}/chapters/{chapter}/facts', {
          params: { path: { id: DRAFT, chapter }, query: { tab: shown } },
        }),
      ),
  })
  const brought = useRef('')
  useEffect(() => {
    // once, as soon as it is there: what changes later must not move the page under the hands
    const row = here && here !== brought.current && here !== marked ? document.getElementById(here) : null
    if (!row) return
    brought.current = here
    row.scrollIntoView({ block: 'center' })
  }, [here, marked, view.data])
  const facts = useMemo(() => new Map(computed.data?.facts.map((f) => [f.path, f]) ?? []), [computed.data])
  const show = (list: string) => {
    const kept = new URLSearchParams(query)
    kept.set('for', list)
    setMost(FIRST_ROWS)
    setQuery(kept)
  }
  const say = useContext(Say)
  const [first, setFirst] = useState<{ edits: Edit[]; told: string; effects: string[] } | null>(null)
  const put = (edits: Edit[], told: string, looked = false) => {
    if (looked || !page?.looks) return save(edits, told)
    const body = { version: draft.data?.version ?? 0, edits: edits as Shape['EditBody'][], says: '', look: true }
    got(client.POST('/api/drafts/{id}/edits', { params: { path: { id: DRAFT } }, body })).then(
      ({ effects }) => (effects.length ? setFirst({ edits, told, effects }) : save(edits, told)),
      (error: Error) => say(error.message),
    )
  }
  const save = (edits: Edit[], told: string) =>
    edit(edits, told, (paths) => {
      const id = paths[0]?.split('/').pop() ?? ''
      setMade(id)
      setMark({ part, id: '' })
      setMost(0) // what is new stands at the end
      if (paths[0]?.split('/').length === 2 && page?.begin?.path === paths[0].split('/')[0]) show(id)
    })
  const latest = useRef(put)
  useEffect(() => {
    latest.current = put
  })
  const around = useMemo(
    () => ({
      put: (edits: Edit[], told: string, looked?: boolean) => latest.current(edits, told, looked),
      mayEdit,
      here,
      facts,
      more: () => setMost((n) => n && n + MORE_ROWS),
      mark: (id: string) => setMark({ part, id }),
    }),
    [mayEdit, here, facts, part],
  )
  return (
    <div className="page">
      <main className="main">
        <GoOn />
        {!page ? (
          (view.error ?? draft.error) ? (
            <p className="empty">{(view.error ?? draft.error)?.message}</p>
          ) : (
            <Skeleton />
          )
        ) : (
          <Page.Provider value={around}>
            {(page.tabs.length > 0 || page.begin) && (
              <TabRow
                label={`Lists of ${page.title}`}
                tabs={page.tabs.map((t) => [t.id, t.title, t.findings])}
                value={page.tab}
                choose={show}
              >
                {mayEdit && page.begin && <Adding add={page.begin} put={put} />}
              </TabRow>
            )}
            <h1>{page.title}</h1>
            {page.lead && <p className="lead">{page.lead}</p>}
            <Narrow page={page} find={find} set={setFind} />
            {page.sections.map((section) => (
              <SectionView key={section.id} section={section} />
            ))}
          </Page.Provider>
        )}
      </main>
      {first && (
        <EffectsFirst effects={first.effects} save={() => save(first.edits, first.told)} close={() => setFirst(null)} />
      )}
      {(page?.bench === 'puts' || page?.bench === 'takes') && (
        <BinBench purpose={page.asks} takes={page.bench === 'takes'} />
      )}
      {page?.bench === 'journey' && <JourneyBench />}
      {page?.bench === 'handset' && draft.data && (
        <HandsetBench
          me={me}
          rulebook={draft.data.rulebook}
          crews={crewsSeeing(page)}
          flows={namedRows(page, 'flows')}
        />
      )}
      {page?.bench === 'agreement' && <AgreementBench />}
      {page?.bench === 'tasks' && page.asks === 'replenish' && <RefillBench />}
      {page?.bench === 'tasks' && page.asks !== 'replenish' && (
        <TaskBench key={page.asks} need={page.asks === 'pick' ? 'pick' : 'put_away'} />
      )}
      {page?.bench === 'labels' && <LabelBench />}
      {page?.bench === 'gates' && <GateBench />}
      {page?.bench === 'packing' && <PackBench />}
      {page?.bench === 'counts' && <CountBench />}
      {page?.bench === 'classes' && <ClassBench />}
      {page?.bench === 'returns' && <ReturnBench />}
      {page?.bench === 'waves' && <WaveBench plans={namedRows(page, 'waves')} />}
    </div>
  )
}

const LONG = 6

/** Where a page has many rows: those that hold some words, and how many of how many they are. */
function Narrow({ page, find, set }: { page: Shape['Chapter']; find: string; set: (find: string) => void }) {
  const shown = page.sections.reduce((n, s) => n + s.rows.length + s.more, 0)
  const every = page.sections.reduce((n, s) => n + s.rows.length + s.more + s.passed_over, 0)
  if (every <= LONG && !find) return null
  return (
    <div className="form">
      <Entry
        style={{ width: 240 }}
        aria-label="Narrow this page"
        placeholder="words of a row"
        value={find}
        maxLength={80}
        onChange={(e) => set(e.target.value)}
      />
      <span className="quiet" role="status">
        {find ? `${shown} of ${every}` : every}
      </span>
    </div>
  )
}

/** The named rows of a section, by what they are called: flows, wave plans. */
function namedRows(page: Shape['Chapter'], section: string) {
  const rows = page.sections.find((s) => s.id === section)?.rows ?? []
  return rows.map((row) => ({ id: row.id, name: row.name?.text ?? row.id }))
}

/** Crews that see something on the handset, as the page of the scanner says. */
function crewsSeeing(page: Shape['Chapter']): string[] {
  return page.asks.split(' ').filter(Boolean)
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
