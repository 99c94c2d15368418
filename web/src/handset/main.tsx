import '@fontsource-variable/atkinson-hyperlegible-next'
import '@fontsource-variable/atkinson-hyperlegible-mono'
import { StrictMode, useEffect, useRef, useState } from 'react'
import { createRoot } from 'react-dom/client'
import { client, got, Trouble, type Shape } from '../shared/client'
import { useLive } from '../shared/live'
import { when } from '../shared/when'
import { Names } from '../shared/Told'
import '../shared/base.css'
import { Handset } from './Handset'
import { useHandset } from './useHandset'

/** The handset on a phone: sign in, choose the world, work. */
function Phone() {
  const [me, setMe] = useState<Shape['Me'] | null | undefined>(undefined)
  useEffect(() => {
    got(client.GET('/api/me')).then(setMe, () => setMe(null))
  }, [])
  if (me === undefined) return <main className="hs" aria-busy="true" />
  return me ? <Floor me={me} changed={setMe} leave={() => setMe(null)} /> : <SignIn done={setMe} />
}

function SignIn({ done }: { done: (me: Shape['Me']) => void }) {
  const [login, setLogin] = useState('')
  const [password, setPassword] = useState('')
  const [badge, setBadge] = useState('')
  const [says, setSays] = useState('')
  const failed = (t: unknown) => setSays(t instanceof Trouble ? t.message : String(t))
  return (
    <main className="hs">
      <form
        className="hs-scan"
        onSubmit={(e) => {
          e.preventDefault()
          got(client.POST('/api/session/badge', { body: { badge } })).then(done, failed)
          setBadge('')
        }}
      >
        <input
          autoFocus
          value={badge}
          onChange={(e) => setBadge(e.target.value)}
          aria-label="Scan your badge"
          placeholder="scan your badge"
          autoComplete="off"
        />
        <button className="hs-btn plain" type="submit" aria-label="Enter">
          ↵
        </button>
      </form>
      <form
        className="hs-body"
        onSubmit={(e) => {
          e.preventDefault()
          got(client.POST('/api/session', { body: { login, password } })).then(done, failed)
        }}
      >
        <h1>Who are you?</h1>
        <label className="hs-note" htmlFor="login">
          Name
        </label>
        <div className="hs-scan">
          <input
            id="login"
            value={login}
            onChange={(e) => setLogin(e.target.value)}
            autoComplete="username"
            autoCapitalize="none"
          />
        </div>
        <label className="hs-note" htmlFor="password">
          Password
        </label>
        <div className="hs-scan">
          <input
            id="password"
            type="password"
            value={password}
            onChange={(e) => setPassword(e.target.value)}
            autoComplete="current-password"
          />
        </div>
        <div className="hs-reply bad" role="status">
          {says}
        </div>
        <div className="hs-row">
          <button className="hs-btn main" type="submit">
            Sign in
          </button>
        </div>
      </form>
    </main>
  )
}

type Me = Shape['Me']
type World = Shape['WorldHead']

function Floor({ me, changed, leave }: { me: Me; changed: (me: Me) => void; leave: () => void }) {
  const [worlds, setWorlds] = useState<Shape['WorldHead'][] | null>(null)
  const [people, setPeople] = useState<Record<string, string>>({})
  const [chosen, setChosen] = useState(new URLSearchParams(location.search).get('world'))
  const [elsewhere, setElsewhere] = useState(false)
  useEffect(() => {
    got(client.GET('/api/worlds')).then((w) => setWorlds(w.worlds), leave)
    got(client.GET('/api/people')).then(
      (p) => setPeople(Object.fromEntries(p.people.map((x) => [x.id, x.name]))),
      leave,
    )
  }, [leave])
  const choose = (id: string | null) => {
    history.replaceState(null, '', id ? `?world=${id}` : location.pathname)
    setChosen(id)
    setElsewhere(id === null)
  }
  const out = () => void got(client.DELETE('/api/session')).then(leave, leave)
  // a person with a site of their own begins on its floor; another one is a tap away
  const own = worlds?.find((w) => w.kind === 'live' && w.site === me.default_site)
  const world = chosen ? worlds?.find((w) => w.id === chosen) : elsewhere ? undefined : own
  if (!worlds) return <main className="hs" aria-busy="true" />
  return (
    <Names value={people}>
      {world ? (
        <Working key={world.id} me={me} world={world} changed={changed} elsewhere={() => choose(null)} out={out} />
      ) : (
        <main className="hs">
          <div className="hs-top">
            <span>{me.name}</span>
          </div>
          <div className="hs-body">
            <h1>Where do you work?</h1>
            <div className="hs-picks">
              {worlds.map((w) => (
                <button key={w.id} className="hs-pick" onClick={() => choose(w.id)}>
                  {w.name}
                  <span>
                    {w.kind === 'live'
                      ? 'the live floor'
                      : `a rehearsal, begun ${when(w.made_at)} by ${people[w.made_by] ?? w.made_by}, ${w.seq} ${w.seq === 1 ? 'entry' : 'entries'}`}
                  </span>
                </button>
              ))}
            </div>
          </div>
          <div className="hs-row">
            <button className="hs-btn" onClick={out}>
              Sign out
            </button>
          </div>
        </main>
      )}
    </Names>
  )
}

/** Each phone is a device of its own; its id is made once and kept. */
function deviceId(): string {
  const known = localStorage.getItem('device')
  if (known) return known
  const made = `H-${crypto.getRandomValues(new Uint16Array(1))[0]?.toString(36).toUpperCase()}`
  localStorage.setItem('device', made)
  return made
}

function Working({
  me,
  world,
  changed,
  elsewhere,
  out,
}: {
  me: Me
  world: World
  changed: (me: Me) => void
  elsewhere: () => void
  out: () => void
}) {
  const [seq, setSeq] = useState<number | undefined>(undefined)
  const [asking, setAsking] = useState(false)
  const old = useLive((moved) => {
    if (moved.what === 'world' && moved.id === world.id) setSeq(moved.to)
  }, world.id)
  const hand = useHandset({ world: world.id, device: deviceId(), person: me.id, tray: false, seq })
  const { view, act, reply } = hand
  // the flow a person begins with is opened when the handset comes up, not each time the menu does
  const begun = useRef(false)
  useEffect(() => {
    if (!view || begun.current) return
    begun.current = true
    const first = me.default_site === world.site ? me.default_flow : ''
    if (!view.question && view.menu.some((flow) => flow.id === first)) act({ kind: 'open_flow', flow: first })
  }, [view, act, me, world])
  // at its menu a handset takes what was put in force, once it is time; in the middle of a flow nothing changes under the hand
  const dueIn = view && !view.question ? view.sync.due_in : null
  useEffect(() => {
    if (dueIn === null) return
    const timer = setTimeout(() => act({ kind: 'sync_handset' }), dueIn * 1000)
    return () => clearTimeout(timer)
  }, [dueIn, act])
  const begin = (site: string, flow: string) => {
    setAsking(false)
    void got(client.PUT('/api/me/where', { body: { site, flow } })).then(changed)
  }
  if (asking)
    return (
      <main className="hs">
        <div className="hs-top">
          <span>{world.name}</span>
          <span>{me.name}</span>
        </div>
        <div className="hs-body">
          <h1>How does your day begin?</h1>
          <div className="hs-picks">
            {(view?.menu ?? []).map((flow) => (
              <button key={flow.id} className="hs-pick" onClick={() => begin(world.site, flow.id)}>
                {flow.name}
                <span>here, at once</span>
              </button>
            ))}
            <button className="hs-pick" onClick={() => begin(world.site, '')}>
              With the menu
              <span>here</span>
            </button>
            <button className="hs-pick" onClick={() => begin('', '')}>
              Ask me where
              <span>each time</span>
            </button>
          </div>
        </div>
        <div className="hs-row">
          <button className="hs-btn" onClick={() => setAsking(false)}>
            As it is
          </button>
        </div>
      </main>
    )
  const begins =
    me.default_site === world.site
      ? (view?.menu.find((f) => f.id === me.default_flow)?.name ?? 'the menu')
      : me.default_site || 'asked'
  return (
    <main style={{ height: '100%' }}>
      <Handset
        hand={hand}
        who={me.name}
        where={`${world.site} ${world.kind === 'live' ? 'live floor' : 'rehearsal'}`}
        old={old}
        menuFoot={
          <div className="hs-row">
            {world.kind === 'live' && (
              <button className="hs-btn" onClick={() => setAsking(true)} disabled={reply?.good === null}>
                Begins: {begins}
              </button>
            )}
            {view?.sync.behind && (
              <button className="hs-btn main" onClick={() => act({ kind: 'sync_handset' })}>
                Take the new menu
              </button>
            )}
            <button className="hs-btn" onClick={elsewhere}>
              Other floor
            </button>
            <button className="hs-btn" onClick={out}>
              Sign out
            </button>
          </div>
        }
      />
    </main>
  )
}

createRoot(document.getElementById('root') as HTMLElement).render(
  <StrictMode>
    <Phone />
  </StrictMode>,
)
