import '@fontsource-variable/atkinson-hyperlegible-next'
import '@fontsource-variable/atkinson-hyperlegible-mono'
import { StrictMode, useEffect, useState } from 'react'
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
  return me ? <Floor me={me} leave={() => setMe(null)} /> : <SignIn done={setMe} />
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

function Floor({ me, leave }: { me: Shape['Me']; leave: () => void }) {
  const [worlds, setWorlds] = useState<Shape['WorldHead'][] | null>(null)
  const [people, setPeople] = useState<Record<string, string>>({})
  const [world, setWorld] = useState(new URLSearchParams(location.search).get('world'))
  useEffect(() => {
    got(client.GET('/api/worlds')).then((w) => setWorlds(w.worlds), leave)
    got(client.GET('/api/people')).then(
      (p) => setPeople(Object.fromEntries(p.people.map((x) => [x.id, x.name]))),
      leave,
    )
  }, [leave])
  const choose = (id: string) => {
    history.replaceState(null, '', `?world=${id}`)
    setWorld(id)
  }
  return (
    <Names value={people}>
      {world ? (
        <Working me={me} world={world} />
      ) : (
        <main className="hs">
          <div className="hs-top">
            <span>{me.name}</span>
          </div>
          <div className="hs-body">
            <h1>Where do you work?</h1>
            <div className="hs-picks">
              {worlds?.map((w) => (
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
            <button className="hs-btn" onClick={() => void got(client.DELETE('/api/session')).then(leave, leave)}>
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

function Working({ me, world }: { me: Shape['Me']; world: string }) {
  const [seq, setSeq] = useState<number | undefined>(undefined)
  const old = useLive((moved) => {
    if (moved.what === 'world' && moved.id === world) setSeq(moved.to)
  }, world)
  const hand = useHandset({ world, device: deviceId(), person: me.id, tray: false, seq })
  return (
    <main style={{ height: '100%' }}>
      <Handset hand={hand} who={me.name} old={old} />
    </main>
  )
}

createRoot(document.getElementById('root') as HTMLElement).render(
  <StrictMode>
    <Phone />
  </StrictMode>,
)
