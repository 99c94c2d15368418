import '@fontsource-variable/atkinson-hyperlegible-next'
import '@fontsource-variable/atkinson-hyperlegible-mono'
import { StrictMode, useCallback, useEffect, useState } from 'react'
import { createRoot } from 'react-dom/client'
import { SignIn } from '../handset/SignIn'
import '../handset/handset.css'
import { client, got, Trouble, type Shape } from '../shared/client'
import { Names } from '../shared/Told'
import '../shared/base.css'
import { Bench } from './Bench'
import './station.css'

type Me = Shape['Me']
type World = Shape['WorldHead']

/** The pack station: who packs, on which floor, at which bench; then scans and keys alone. */
function Station() {
  const [me, setMe] = useState<Me | null | undefined>(undefined)
  const [away, setAway] = useState(false)
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined
    const ask = () =>
      got(client.GET('/api/me')).then(setMe, (trouble: unknown) => {
        if (trouble instanceof Trouble && trouble.status > 0 && trouble.status < 500) return setMe(null)
        setAway(true)
        timer = setTimeout(() => void ask(), 2000)
      })
    void ask()
    return () => clearTimeout(timer)
  }, [])
  const out = useCallback(() => void got(client.DELETE('/api/session')).finally(() => setMe(null)), [])
  if (me === undefined)
    return (
      <main className="st-choose" aria-busy="true">
        {away && <h1>The server is out of reach. This screen asks again by itself.</h1>}
      </main>
    )
  if (me === null)
    return (
      <div className="st-sign">
        <SignIn done={setMe} />
      </div>
    )
  return <Floors me={me} out={out} />
}

function Floors({ me, out }: { me: Me; out: () => void }) {
  const [worlds, setWorlds] = useState<World[] | null>(null)
  const [people, setPeople] = useState<{ id: string; name: string }[]>([])
  const [chosen, setChosen] = useState(new URLSearchParams(location.search).get('world') ?? '')
  const [says, setSays] = useState('')
  useEffect(() => {
    const failed = (trouble: unknown) => setSays(trouble instanceof Trouble ? trouble.message : String(trouble))
    got(client.GET('/api/worlds')).then((found) => setWorlds(found.worlds), failed)
    got(client.GET('/api/people')).then((found) => setPeople(found.people), failed)
  }, [])
  const choose = (id: string) => {
    history.replaceState(null, '', id ? `?world=${id}` : location.pathname)
    setChosen(id)
  }
  if (!worlds) return <main className="st-choose">{says && <p>{says}</p>}</main>
  const own = worlds.find((w) => w.kind === 'live' && w.site === me.default_site)
  const world = worlds.find((w) => w.id === chosen) ?? (chosen ? undefined : own)
  if (world)
    return (
      <Names value={Object.fromEntries(people.map((x) => [x.id, x.name]))}>
        <Bench key={world.id} me={me} world={world} people={people} out={out} elsewhere={() => choose('none')} />
      </Names>
    )
  return (
    <main className="st-choose">
      <h1>On which floor?</h1>
      {worlds.length === 0 && <p>Nothing runs at your sites yet. A live floor is begun in the office.</p>}
      {worlds.map((w) => (
        <button key={w.id} className="st-btn" onClick={() => choose(w.id)}>
          {w.name}
          <small>{w.kind === 'live' ? 'the live floor' : 'a rehearsal'}</small>
        </button>
      ))}
      <button className="st-btn plain" onClick={out}>
        Sign out
      </button>
    </main>
  )
}

createRoot(document.getElementById('root') as HTMLElement).render(
  <StrictMode>
    <Station />
  </StrictMode>,
)
