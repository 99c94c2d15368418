import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Snackbar from '@mui/material/Snackbar'
import Tooltip from '@mui/material/Tooltip'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { lazy, Suspense, useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'
import { Navigate, NavLink, Route, Routes, useLocation, useNavigate } from 'react-router'
import { client, got, type Shape, Trouble } from '../../shared/client'
import { ago, useLive } from '../../shared/live'
import { Names, Told } from '../../shared/Told'
import { chooseDraft, DRAFT, Say, useDraft, useEdits, useGround, useRehearsals } from '../parts/data'
import { CHAPTERS, RULES } from './chapters'
import { Jump } from './Jump'
import { Keys } from './Keys'
import { SignIn } from './SignIn'
import { Pick } from '../parts/controls'

const Site = lazy(() => import('../ground/Site'))
const Catalogue = lazy(() => import('../ground/Tables').then((m) => ({ default: m.Catalogue })))
const Orders = lazy(() => import('../ground/Tables').then((m) => ({ default: m.Orders })))
const DraftsPage = lazy(() => import('../proof/DraftsPage'))
const FindingsPage = lazy(() => import('../proof/FindingsPage'))
const ChapterPage = lazy(() => import('../parts/ChapterPage'))
const Host = lazy(() => import('../floor/Host'))
const Documents = lazy(() => import('../floor/Documents'))
const Stock = lazy(() => import('../floor/Stock'))
const Work = lazy(() => import('../floor/Work'))
const Release = lazy(() => import('../floor/Release'))
const WaveBoard = lazy(() => import('../floor/WaveBoard'))
const DockBoard = lazy(() => import('../floor/DockBoard'))
const CountsBoard = lazy(() => import('../floor/CountsBoard'))
const StandIns = lazy(() => import('../floor/StandIns'))
const Printers = lazy(() => import('../floor/Printers'))
const Today = lazy(() => import('../floor/Today'))
const LiveFloor = lazy(() => import('../floor/LiveFloor'))
const Rehearsals = lazy(() => import('../proof/Rehearsals'))
const RehearsalPage = lazy(() => import('../proof/RehearsalPage'))
const Desk = lazy(() => import('../proof/Desk'))
const People = lazy(() => import('../house/People'))

export function App() {
  const me = useQuery({ queryKey: ['me'], queryFn: () => got(client.GET('/api/me')) })
  const people = useQuery({ queryKey: ['people'], queryFn: () => got(client.GET('/api/people')), enabled: !!me.data })
  const names = useMemo(
    () =>
      Object.fromEntries([
        ['host', 'the host'],
        ['clock', 'the clock'],
        ...(people.data?.people ?? []).map((p) => [p.id, p.name]),
      ]) as Record<string, string>,
    [people.data],
  )
  const [said, setSaid] = useState<{ says: string; changed: string[]; well: boolean } | null>(null)
  const say = useCallback((says: string, changed: string[] = [], well = false) => setSaid({ says, changed, well }), [])
  if (me.isPending) return null
  if (me.error instanceof Trouble && me.error.status === 401) return <SignIn />
  if (me.error) return <p className="empty">{me.error.message}</p>
  return (
    <Names value={names}>
      <Say value={say}>
        <Studio me={me.data} />
        <Snackbar
          open={said !== null}
          onClose={(_, why) => why !== 'clickaway' && setSaid(null)}
          autoHideDuration={9000}
          anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}
        >
          <Alert
            severity={said?.well ? 'info' : 'warning'}
            variant="outlined"
            sx={{ bgcolor: 'background.paper' }}
            onClose={() => setSaid(null)}
          >
            <Told text={said?.says ?? ''} />
            {said?.changed.map((line) => (
              <div key={line}>
                <Told text={line} />
              </div>
            ))}
          </Alert>
        </Snackbar>
      </Say>
    </Names>
  )
}

function Studio({ me }: { me: Shape['Me'] }) {
  const queries = useQueryClient()
  const go = useNavigate()
  const [help, setHelp] = useState(false)
  const [jump, setJump] = useState(false)
  const old = useLive((moved) => {
    if (moved.what === 'draft') {
      const known = queries.getQueryData<Shape['DraftView']>(['draft', moved.id])
      if (known && known.version >= moved.to) return
      void queries.invalidateQueries({ queryKey: ['draft', moved.id] })
    } else if (moved.what === 'ground') {
      void queries.invalidateQueries({ queryKey: ['ground head'] })
    } else if (moved.what === 'import') {
      void queries.invalidateQueries({ queryKey: ['import', moved.id] })
    } else if (moved.what === 'world') {
      void queries.invalidateQueries({ queryKey: ['world', moved.id] })
    } else {
      void queries.invalidateQueries({ queryKey: ['draft'] })
      void queries.invalidateQueries({ queryKey: ['world'] })
      void queries.invalidateQueries({ queryKey: ['import'] })
    }
  }, useWatched())
  const { undo, redo } = useEdits()
  const drafts = useQuery({ queryKey: ['drafts'], queryFn: () => got(client.GET('/api/drafts')) })
  const chosen = drafts.data?.drafts.find((d) => d.id === DRAFT)
  useEffect(() => {
    // a draft that is gone, or was chosen on another database: work on one that is there
    const other = drafts.data?.drafts[0]
    if (drafts.data && !chosen && other) {
      chooseDraft(other.id)
      location.reload()
    }
  }, [drafts.data, chosen])
  const draft = useDraft()
  const ground = useGround()
  const path = useLocation().pathname
  const onDesk = path.startsWith('/desk')
  const [bench, setBench] = useState(() => localStorage.getItem('bench folded') !== 'yes')
  useEffect(() => localStorage.setItem('bench folded', bench ? 'no' : 'yes'), [bench])
  const content = useRef<HTMLDivElement>(null)
  const from = useRef(path)
  useEffect(() => {
    // on another page the hands begin at its content, unless it has put them somewhere itself
    if (from.current.split('/')[1] === path.split('/')[1]) return
    from.current = path
    if (!content.current?.contains(document.activeElement)) content.current?.focus({ preventScroll: true })
  }, [path])
  useHotkeys('mod+z', () => undo(), { preventDefault: true })
  useHotkeys('mod+shift+z, mod+y', () => redo(), { preventDefault: true })
  // by the character, whatever keys a layout needs for it
  const typed = { useKey: true, ignoreModifiers: true } as const
  useHotkeys('?', () => setHelp(true), typed)
  useHotkeys('/', () => setJump(true), { ...typed, preventDefault: true })
  useHotkeys('mod+k', () => setJump(true), { preventDefault: true })
  // a key that ends a sequence means that alone: g then b goes to the bin rules and folds nothing
  const begun = useRef(0)
  useHotkeys('g', () => void (begun.current = Date.now()), { useKey: true })
  const alone = () => Date.now() - begun.current > 1000
  useHotkeys('h', () => alone() && void go('/scanner'), { useKey: true })
  useHotkeys('b', () => alone() && setBench((on) => !on), { useKey: true })
  useHotkeys(
    '.',
    () => {
      const places = [...document.querySelectorAll<HTMLElement>('.finding')]
      const at = places.findIndex((p) => p === document.activeElement)
      places[(at + 1) % places.length]?.focus()
    },
    typed,
  )
  for (const { chapters } of CHAPTERS)
    for (const [, to, key] of chapters)
      // the chapters never change, so neither does the number of hooks
      // eslint-disable-next-line react-hooks/rules-of-hooks
      useHotkeys(`g>${key}`, () => void go(to), { useKey: true })
  return (
    <div className={`shell${onDesk ? ' on-desk' : ''}${bench ? '' : ' no-bench'}`}>
      <a className="skip" href="#content" onClick={(e) => (e.preventDefault(), content.current?.focus())}>
        Skip to the content
      </a>
      <header className="top">
        <img src="/mark.svg" alt="" />
        <b>Mindful Crate</b>
        {onDesk ? (
          <>
            <NavLink className="link" to="/today">
              Today
            </NavLink>
            <NavLink className="link" to="/rehearsals">
              Rehearsals
            </NavLink>
          </>
        ) : drafts.data && drafts.data.drafts.length > 1 ? (
          <Pick
            aria-label="Site and draft"
            value={DRAFT}
            onChange={(e) => {
              chooseDraft(e.target.value)
              location.assign('/bin-rules')
            }}
          >
            {drafts.data.drafts.map((d) => (
              <option key={d.id} value={d.id}>
                {d.site}: {d.name}
              </option>
            ))}
          </Pick>
        ) : (
          <span>{ground.data?.site_name}</span>
        )}
        {draft.data && (
          <span className="draft">
            {draft.data.name}{' '}
            <span className="quiet">
              {draft.data.in_force === null
                ? 'draft, nothing in force yet'
                : draft.data.differs_from_force
                  ? `draft, differs from revision ${draft.data.in_force} in force`
                  : `draft, same as revision ${draft.data.in_force} in force`}
            </span>
          </span>
        )}
        {me.rights.includes('edit_rulebook') && (
          <>
            <Button onClick={undo} disabled={!draft.data?.can_undo}>
              Undo
            </Button>
            <Button onClick={redo} disabled={!draft.data?.can_redo}>
              Redo
            </Button>
          </>
        )}
        <span className="grow" />
        {old !== null && <span className="mark doubt">▲ out of touch: what you see is {ago(old)} old</span>}
        <button className="link quiet" onClick={() => setJump(true)}>
          Search or jump <span className="code">/</span>
        </button>
        <button className="link quiet" onClick={() => setHelp(true)}>
          Keys <span className="code">?</span>
        </button>
        <span>{me.name}</span>
        <button
          className="link quiet"
          onClick={() =>
            void got(client.DELETE('/api/session'))
              .then(
                () => queries.clear(),
                () => queries.clear(),
              )
              .then(() => location.assign('/'))
          }
        >
          Sign out
        </button>
      </header>
      <Rail me={me} />
      <div id="content" className="content" tabIndex={-1} ref={content}>
        <Suspense fallback={<main className="main" aria-busy="true" />}>
          <Routes>
            <Route path="/site" element={<Site me={me} />} />
            <Route path="/catalogue" element={<Catalogue me={me} />} />
            <Route path="/catalogue/:table" element={<Catalogue me={me} />} />
            <Route path="/orders" element={<Orders me={me} />} />
            {RULES.flatMap((chapter) => [
              <Route
                key={chapter}
                path={`/${chapter}`}
                element={<ChapterPage key={chapter} me={me} chapter={chapter} />}
              />,
              <Route
                key={`${chapter} at`}
                path={`/${chapter}/:part`}
                element={<ChapterPage key={chapter} me={me} chapter={chapter} />}
              />,
            ])}
            <Route path="/today" element={<Today me={me} />} />
            <Route path="/floor" element={<LiveFloor />} />
            <Route path="/work" element={<Work me={me} />} />
            <Route path="/release" element={<Release me={me} />} />
            <Route path="/board" element={<WaveBoard me={me} />} />
            <Route path="/printers" element={<Printers me={me} />} />
            <Route path="/dock" element={<DockBoard me={me} />} />
            <Route path="/counts" element={<CountsBoard me={me} />} />
            <Route path="/stand-ins" element={<StandIns me={me} />} />
            <Route path="/stock" element={<Stock me={me} />} />
            <Route path="/documents" element={<Documents />} />
            <Route path="/host" element={<Host me={me} />} />
            <Route path="/findings" element={<FindingsPage />} />
            <Route path="/drafts" element={<DraftsPage me={me} />} />
            <Route path="/rehearsals" element={<Rehearsals me={me} />} />
            <Route path="/rehearsals/:id" element={<RehearsalPage me={me} />} />
            <Route path="/people" element={<People me={me} />} />
            <Route path="/desk/:id" element={<Desk me={me} />} />
            {/* where to begin is known once it is known whether there is a draft */}
            <Route
              path="*"
              element={
                drafts.data ? (
                  <Navigate to={drafts.data.drafts.length === 0 ? '/site' : '/today'} replace />
                ) : (
                  <main className="main" aria-busy="true" />
                )
              }
            />
          </Routes>
        </Suspense>
      </div>
      <Keys open={help} close={() => setHelp(false)} />
      <Jump open={jump} close={() => setJump(false)} />
    </div>
  )
}

/** The worlds that what is on screen looks at, by their ids. */
function useWatched(): string {
  const queries = useQueryClient()
  const [watched, setWatched] = useState('')
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined
    const look = () => {
      clearTimeout(timer)
      timer = setTimeout(() => {
        const active = queries.getQueryCache().findAll({ queryKey: ['world'], type: 'active' })
        setWatched([...new Set(active.map((q) => String(q.queryKey[1])))].sort().join(' '))
      }, 60)
    }
    look()
    const stop = queries.getQueryCache().subscribe(look)
    return () => (clearTimeout(timer), stop())
  }, [queries])
  return watched
}

function Rail({ me }: { me: Shape['Me'] }) {
  const draft = useDraft()
  const rehearsals = useRehearsals()
  const all = (counts: Record<string, number> = {}) => Object.values(counts).reduce((sum, n) => sum + n, 0)
  const counted = (to: string): [number, boolean] => {
    if (to === '/rehearsals') return [due, false]
    if (to === '/findings') return [all(draft.data?.findings), all(draft.data?.stops) > 0]
    const chapter = to === '/catalogue' ? '' : to.slice(1)
    return [draft.data?.findings[chapter] ?? 0, (draft.data?.stops[chapter] ?? 0) > 0]
  }
  const due = rehearsals.data?.rehearsals.filter((r) => r.needs_a_look).length ?? 0
  return (
    <nav className="rail" aria-label="Chapters">
      {CHAPTERS.filter(({ group }) => group !== 'House' || me.rights.includes('people')).map(({ group, chapters }) => (
        <div key={group}>
          <h2>{group}</h2>
          {chapters
            .filter(([, to]) => to !== '/people' || me.rights.includes('people'))
            .map(([name, to]) => {
              const [count, blocks] = counted(to)
              return (
                <NavLink key={to} to={to}>
                  {name}
                  {count > 0 && (
                    <Tooltip
                      describeChild
                      placement="right"
                      title={
                        to === '/rehearsals'
                          ? 'not passed on this draft, or touched by a change of the ground'
                          : 'findings'
                      }
                    >
                      <span className={`count${blocks ? ' blocks' : ''}`}>{count}</span>
                    </Tooltip>
                  )}
                </NavLink>
              )
            })}
        </div>
      ))}
    </nav>
  )
}
