import Button from '@mui/material/Button'
import { useMutation, useQuery } from '@tanstack/react-query'
import { useMemo, useRef, useState } from 'react'
import { useForm } from 'react-hook-form'
import { useSearchParams } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { Skeleton } from '../parts/Skeleton'
import { BringIn } from './BringIn'
import { chooseDraft, DRAFT, useGroundHead } from '../parts/data'
import { type ColourBy, extent, kindHue, PURPOSE_HUES } from '../parts/mapScene'
import { type Hand, SiteMap } from '../parts/SiteMap'
import { About } from './About'
import { LayOut } from './LayOut'
import { Picked } from './Picked'
import { Entry, Pick } from '../parts/controls'
import { TabRow } from '../parts/TabRow'
import { Tour } from './Tour'
import { Ways } from './Ways'
import { type Drawn, type Hands, IDLE, NOTHING } from './ways'

export type Block = Shape['Block']
export type Head = Shape['SiteHead']
export const PURPOSES = Object.keys(PURPOSE_HUES)
export const count = (n: number, one: string) => `${n.toLocaleString()} ${n === 1 ? one : `${one}s`}`
export const word = (text: string) => text.replace(/_/g, ' ')

/** Where things are: the site's map, its bins laid out by the block, and changed one by one or many at once. */
export default function Site({ me }: { me: Shape['Me'] }) {
  const head = useGroundHead()
  const [query, setQuery] = useSearchParams()
  const mine = head.data?.sites ?? []
  const site =
    mine.find((s) => s.code === query.get('site')) ?? mine.find((s) => s.drafts.some((d) => d.id === DRAFT)) ?? mine[0]
  const [making, setMaking] = useState(false)
  const mayEdit = me.rights.includes('edit_rulebook')
  if (!head.data)
    return <main className="main">{head.error ? <p className="empty">{head.error.message}</p> : <Skeleton />}</main>
  if (!site || making)
    return (
      <main className="main">
        <NewSite no={head.data.no} first={mine.length === 0} close={() => setMaking(false)} mayEdit={mayEdit} />
      </main>
    )
  return (
    <OneSite
      key={site.code}
      site={site}
      head={head.data}
      mayEdit={mayEdit}
      sites={mine}
      show={(code) => setQuery({ site: code })}
      bench={query.get('bench') ?? 'site'}
      setBench={(id) => setQuery({ site: site.code, bench: id })}
      another={() => setMaking(true)}
    />
  )
}

/** On a tour bins have their numbers and no frame. */
const TAKEN = new Set<string>()

function NewSite({ no, first, mayEdit, close }: { no: number; first: boolean; mayEdit: boolean; close: () => void }) {
  const { register, handleSubmit } = useForm({
    defaultValues: {
      code: '',
      name: '',
      zone: Intl.DateTimeFormat().resolvedOptions().timeZone || 'Europe/London',
    },
  })
  const make = useMutation({
    mutationFn: ({ code, name, zone }: { code: string; name: string; zone: string }) =>
      got(
        client.POST('/api/ground/sites', {
          body: { base: no, code: code.trim().toUpperCase(), name, time_zone: zone },
        }),
      ),
    onSuccess: (made, { code }) => {
      chooseDraft(made.code)
      location.assign(`/site?site=${code.trim().toUpperCase()}`) // the studio works on the new site's draft from here on
    },
  })
  return (
    <form
      className="card"
      style={{ maxWidth: 620 }}
      onSubmit={(e) => void handleSubmit((said) => make.mutate(said))(e)}
    >
      <h1>{first ? 'Your first site' : 'Another site'}</h1>
      <p className="lead">
        A site is one warehouse or stockroom. Its bins, orders and stock are its own; items and partners are shared by
        all sites.
      </p>
      <div className="ask" style={{ gridTemplateColumns: '110px 1fr' }}>
        <label htmlFor="s-code">Code</label>
        <Entry
          id="s-code"

          style={{ width: 120, fontFamily: 'var(--mono)', textTransform: 'uppercase' }}
          {...register('code')}
          required
          maxLength={10}
          pattern="[A-Za-z0-9][A-Za-z0-9\-]*"
          autoFocus
        />
        <label htmlFor="s-name">Name</label>
        <Entry
          id="s-name"

          {...register('name')}
          required
          minLength={2}
          maxLength={80}
        />
        <label htmlFor="s-zone">Time zone</label>
        <Entry id="s-zone" {...register('zone')} required />
      </div>
      {make.error && (
        <p className="mark fails">
          ✕ <Told text={make.error.message} />
        </p>
      )}
      <span className="form">
        <Button type="submit" variant="contained" disabled={!mayEdit || make.isPending}>
          Make the site
        </Button>
        {!first && <Button onClick={close}>Close</Button>}
      </span>
    </form>
  )
}

function OneSite({
  site,
  head,
  mayEdit,
  sites,
  show,
  another,
  bench,
  setBench,
}: {
  site: Head
  head: Shape['GroundHead']
  mayEdit: boolean
  sites: Head[]
  show: (code: string) => void
  another: () => void
  bench: string
  setBench: (id: string) => void
}) {
  const [over, setOver] = useState<Drawn>(NOTHING)
  const [hands, setHands] = useState<Hands>(IDLE)
  const [stops, setStops] = useState<string[]>([])
  const [by, setBy] = useState<ColourBy>('purpose')
  const [level, setLevel] = useState<number | null>(null)
  const [picked, setPicked] = useState<Set<string>>(new Set())
  const [ghost, setGhost] = useState<Shape['SiteMap'] | null>(null)
  const [laying, setLaying] = useState(site.bins === 0)
  const [bringing, setBringing] = useState(false)
  const [find, setFind] = useState('')
  const hand = useRef<Hand>(null)
  const map = useQuery({
    queryKey: ['site map', site.code, head.no],
    queryFn: () => got(client.GET('/api/ground/map', { params: { query: { site: site.code } } })),
    placeholderData: (before) => before,
  })
  const wide = useMemo(() => {
    const edge = map.data ? extent(map.data, null) : { left: 0, right: 0, bottom: 0, top: 0 }
    return { low: Math.min(edge.left, edge.bottom), high: Math.max(edge.right, edge.top) }
  }, [map.data])
  const walking = bench === 'walking' || bench === 'tour'
  const toggled = (code: string) =>
    setStops((before) => (before.includes(code) ? before.filter((c) => c !== code) : [...before, code]))
  const levels = [...new Set(map.data?.level ?? [])].sort((a, b) => a - b)
  const lost = find !== '' && map.data !== undefined && !map.data.code.includes(find.trim().toUpperCase())
  return (
    <div className="page">
      <main className="main site">
        <div className="form" style={{ margin: 0 }}>
          <h1 style={{ margin: 0 }}>{site.name}</h1>
          {sites.length > 1 && (
            <Pick aria-label="Site" value={site.code} onChange={(e) => show(e.target.value)}>
              {sites.map((s) => (
                <option key={s.code} value={s.code}>
                  {s.code} {s.name}
                </option>
              ))}
            </Pick>
          )}
          <span className="quiet">
            {count(site.bins, 'bin')} in {count(site.zones, 'zone')}, {count(site.stock, 'row')} of stock,{' '}
            {count(site.orders, 'order')}; time of {site.time_zone}
          </span>
        </div>
        <div className="form" style={{ margin: '6px 0' }}>
          {!walking && (
            <Pick aria-label="Colour by" value={by} onChange={(e) => setBy(e.target.value as ColourBy)}>
              <option value="purpose">what zones are for</option>
              <option value="kind">types of bins</option>
              <option value="fill">how full</option>
            </Pick>
          )}
          {levels.length > 1 && (
            <Pick
              aria-label="Level"
              value={level ?? ''}
              onChange={(e) => setLevel(e.target.value === '' ? null : Number(e.target.value))}
            >
              <option value="">all levels</option>
              {levels.map((l) => (
                <option key={l} value={l}>
                  level {l + 1}
                </option>
              ))}
            </Pick>
          )}
          <form
            onSubmit={(e) => {
              e.preventDefault()
              const code = find.trim().toUpperCase()
              if (hand.current?.show(code)) setPicked(new Set([code]))
            }}
          >
            <Entry
              style={{ width: 170, fontFamily: 'var(--mono)' }}
              placeholder="bin, then Enter"
              aria-label="Go to bin"
              value={find}
              onChange={(e) => setFind(e.target.value)}
            />
          </form>
          {lost && <span className="quiet">no bin has just this code yet</span>}
          <span style={{ flex: 1 }} />
          <button className="link quiet" onClick={() => hand.current?.fit()}>
            show all
          </button>
          <button className="link quiet" onClick={() => hand.current?.picture('svg')}>
            SVG
          </button>
          <button className="link quiet" onClick={() => hand.current?.picture('png')}>
            PNG
          </button>
        </div>
        <div className="mapbox">
          {map.data ? (
            <SiteMap
              ref={hand}
              map={map.data}
              ghost={ghost}
              level={level}
              by={walking ? 'calm' : by}
              picked={bench === 'tour' ? TAKEN : picked}
              pick={(codes, add) => {
                if (bench !== 'tour') setPicked(add ? new Set([...picked, ...codes]) : new Set(codes))
                else if (codes[0]) toggled(codes[0])
              }}
              lines={over.lines}
              tags={over.tags}
              sketch={hands.stroke}
              touch={hands.touch}
            />
          ) : map.error ? (
            <p className="empty">{map.error.message}</p>
          ) : (
            <Skeleton />
          )}
          {map.data && map.data.code.length === 0 && !ghost && (
            <p className="empty overlay">
              No bins yet. Lay out the first block on the right, or bring a file of bins in.
            </p>
          )}
        </div>
        {map.data && !walking && <Legend map={map.data} by={by} />}
        {walking && <WalkingLegend bench={bench} />}
      </main>
      <aside className="bench" aria-label="Bench">
        <TabRow
          label="Bench"
          value={bench}
          choose={setBench}
          tabs={[
            ['site', 'The site'],
            ['walking', 'Walking'],
            ['tour', 'A tour'],
          ]}
        />
        {bench === 'walking' ? (
          <Ways
            site={site}
            no={head.no}
            wide={wide}
            mayEdit={mayEdit}
            draw={setOver}
            sketch={setHands}
            pick={(codes) => setPicked(new Set(codes))}
          />
        ) : bench === 'tour' && map.data ? (
          <Tour site={site.code} no={head.no} map={map.data} stops={stops} setStops={setStops} draw={setOver} />
        ) : laying && mayEdit ? (
          <LayOut
            site={site}
            head={head}
            ghost={setGhost}
            close={() => {
              setLaying(false)
              setGhost(null)
            }}
            kinds={map.data?.kinds ?? []}
          />
        ) : picked.size > 0 && map.data ? (
          <Picked map={map.data} picked={picked} no={head.no} mayEdit={mayEdit} none={() => setPicked(new Set())} />
        ) : (
          <About
            site={site}
            mayEdit={mayEdit}
            no={head.no}
            lay={() => setLaying(true)}
            bring={() => setBringing(true)}
            another={another}
          />
        )}
      </aside>
      {bringing && <BringIn site={site.code} close={() => setBringing(false)} />}
    </div>
  )
}

function Legend({ map, by }: { map: Shape['SiteMap']; by: ColourBy }) {
  if (by === 'fill')
    return (
      <div className="legend">
        <span>the darker part of a bin is what is full of it by plates, room or weight</span>
        <span>✕ blocked</span>
      </div>
    )
  const entries =
    by === 'kind'
      ? map.kinds.map((k, n) => [k.name, kindHue(n)] as const)
      : [...new Set(map.zones.map((z) => z.purpose))].map((p) => [word(p), PURPOSE_HUES[p] ?? '#5C6B69'] as const)
  return (
    <div className="legend">
      {entries.map(([says, hue]) => (
        <span key={says}>
          <svg viewBox="0 0 10 10" aria-hidden="true">
            <rect width="10" height="10" fill={hue} />
          </svg>
          {says}
        </span>
      ))}
      <span>✕ blocked</span>
      <span>wheel zooms, shift and drag picks many</span>
    </div>
  )
}

function WalkingLegend({ bench }: { bench: string }) {
  return (
    <div className="legend">
      {bench === 'tour' ? (
        <>
          <span style={{ color: 'var(--primary)' }}>━ the shortest tour</span>
          <span style={{ color: 'var(--clay)' }}>╍ in the order of the numbers</span>
          <span>wheel zooms, a click takes a bin in or lets it go</span>
        </>
      ) : (
        <>
          <span>grey bands are cross aisles</span>
          <span style={{ color: 'var(--dusk)' }}>━ said: a click changes it</span>
          <span style={{ color: 'var(--ochre)' }}>? asked</span>
          <span style={{ color: 'var(--clay)' }}>━ being drawn</span>
        </>
      )}
    </div>
  )
}
