import '@fontsource-variable/atkinson-hyperlegible-next'
import '@fontsource-variable/atkinson-hyperlegible-mono'
import { StrictMode, useEffect, useRef, useState } from 'react'
import { createRoot } from 'react-dom/client'
import { client, got, read, Trouble, type Shape } from '../shared/client'
import { useLive } from '../shared/live'
import { when } from '../shared/when'
import { Names } from '../shared/Told'
import '../shared/base.css'
import { Device } from './Device'
import { Handset } from './Handset'
import { SignIn } from './SignIn'
import { useHandset, type View } from './useHandset'

/** What the page shows first, asked for at once and not one after another: one way there and back instead of three. */
type Early = { worlds: World[]; people: { id: string; name: string }[]; view: View | null }

/** What `early.js` asked for while the scripts were on their way; taken once, for what is asked later is asked anew. */
type Asked = Record<'me' | 'worlds' | 'people', Promise<Response>> & { view: Promise<Response> | null }
function asked(): Asked | null {
  const before = (self as { early?: Asked }).early ?? null
  delete (self as { early?: Asked }).early
  return before
}

async function early(before: Asked | null): Promise<Early | null> {
  const world = new URLSearchParams(location.search).get('world')
  const device = localStorage.getItem('device')
  const params = { path: { id: world ?? '', device: device ?? '' }, query: { person: '', tray: false } }
  try {
    const [worlds, people, view] = await Promise.all([
      before ? read<Shape['WorldList']>(before.worlds) : got(client.GET('/api/worlds')),
      before ? read<Shape['People']>(before.people) : got(client.GET('/api/people')),
      before
        ? before.view && read<View>(before.view).catch(() => null)
        : world && device
          ? got(client.GET('/api/worlds/{id}/handsets/{device}', { params })).catch(() => null)
          : null,
    ])
    return { worlds: worlds.worlds, people: people.people, view }
  } catch {
    return null // it is asked for again once somebody is signed in
  }
}

/** The handset on a phone: sign in, choose the world, work. */
function Phone() {
  const [me, setMe] = useState<Shape['Me'] | null | undefined>(undefined)
  const [known, setKnown] = useState<Early | null>(null)
  const [away, setAway] = useState(false)
  useEffect(() => {
    const ask = () => {
      const before = asked()
      const lists = early(before)
      return (before ? read<Shape['Me']>(before.me) : got(client.GET('/api/me'))).then(
        async (who) => {
          setKnown(await lists)
          setMe(who)
        },
        (trouble: unknown) => {
          const away = trouble instanceof Trouble && (trouble.status === 0 || trouble.status >= 500)
          if (!away) return setMe(null)
          setAway(true)
          timer = setTimeout(() => void ask(), 2000)
        },
      )
    }
    let timer: ReturnType<typeof setTimeout> | undefined
    void ask()
    return () => clearTimeout(timer)
  }, [])
  if (me === undefined)
    return (
      <main className="hs" aria-busy="true">
        {away && (
          <div className="hs-body">
            <h1>The server is out of reach.</h1>
            <p className="hs-note">
              This handset asks again by itself, and goes on where you were. What you scanned and nobody answered is
              kept.
            </p>
          </div>
        )}
      </main>
    )
  return me ? (
    <Floor
      me={me}
      known={known}
      changed={setMe}
      leave={() => {
        setKnown(null)
        setMe(null)
      }}
    />
  ) : (
    <SignIn done={setMe} />
  )
}

type Me = Shape['Me']
type World = Shape['WorldHead']

function Floor({
  me,
  known,
  changed,
  leave,
}: {
  me: Me
  known: Early | null
  changed: (me: Me) => void
  leave: () => void
}) {
  const [worlds, setWorlds] = useState<World[] | null>(known?.worlds ?? null)
  const [people, setPeople] = useState<Record<string, string>>(byId(known?.people ?? []))
  const [chosen, setChosen] = useState(new URLSearchParams(location.search).get('world'))
  const [elsewhere, setElsewhere] = useState(false)
  const [first, setFirst] = useState(true)
  useEffect(() => {
    if (known && first) return
    // when another floor is chosen they are asked for again: somebody may have been asked into a rehearsal meanwhile
    const failed = (trouble: unknown) => {
      // out of reach, the lists of before are better than none
      if (first || (trouble instanceof Trouble && trouble.status === 401)) leave()
    }
    got(client.GET('/api/worlds')).then((w) => setWorlds(w.worlds), failed)
    got(client.GET('/api/people')).then((p) => setPeople(byId(p.people)), failed)
  }, [known, leave, first, elsewhere])
  const choose = (id: string | null) => {
    history.replaceState(null, '', id ? `?world=${id}` : location.pathname)
    setChosen(id)
    setFirst(false)
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
        <Working
          key={world.id}
          early={first ? (known?.view ?? null) : null}
          me={me}
          world={world}
          changed={changed}
          elsewhere={() => choose(null)}
          out={out}
        />
      ) : (
        <main className="hs">
          <div className="hs-top">
            <span>{me.name}</span>
          </div>
          <div className="hs-body">
            <h1>Where do you work?</h1>
            {worlds.length === 0 && (
              <p className="hs-note">
                Nothing runs at your sites yet. A live floor is begun in the office; into a rehearsal you are asked.
              </p>
            )}
            <div className="hs-picks">
              {[...worlds].sort(liveFirst).map((w) => (
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

function byId(people: { id: string; name: string }[]): Record<string, string> {
  return Object.fromEntries(people.map((x) => [x.id, x.name]))
}

/** The live floor first; of rehearsals the newest. */
function liveFirst(one: World, other: World): number {
  return Number(other.kind === 'live') - Number(one.kind === 'live')
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
  early,
  me,
  world,
  changed,
  elsewhere,
  out,
}: {
  early: View | null
  me: Me
  world: World
  changed: (me: Me) => void
  elsewhere: () => void
  out: () => void
}) {
  const [seq, setSeq] = useState<number | undefined>(undefined)
  const [asking, setAsking] = useState(false)
  const [device, setDevice] = useState(false)
  const old = useLive((moved) => {
    if (moved.what === 'world' && moved.id === world.id) setSeq(moved.to)
  }, world.id)
  const hand = useHandset({ world: world.id, device: deviceId(), person: me.id, tray: false, seq, begin: early })
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
  if (device) return <Device id={deviceId()} close={() => setDevice(false)} />
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
        out={out}
        camera
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
            <button className="hs-btn" onClick={() => setDevice(true)}>
              This device
            </button>
          </div>
        }
      />
    </main>
  )
}

// the shell is kept, so that the page comes up where the network does not reach
if ('serviceWorker' in navigator)
  void navigator.serviceWorker.register('/handset-sw.js', { scope: '/handset' }).catch(() => undefined)

createRoot(document.getElementById('root') as HTMLElement).render(
  <StrictMode>
    <Phone />
  </StrictMode>,
)
