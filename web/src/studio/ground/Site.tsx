import Button from '@mui/material/Button'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useContext, useEffect, useRef, useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import { client, got, type Shape, Trouble } from '../../shared/client'
import { Told } from '../../shared/Told'
import { Skeleton } from '../parts/Skeleton'
import { BringIn } from './BringIn'
import { chooseDraft, DRAFT, Say, useGroundHead, useGroundChange } from '../parts/data'
import { type ColourBy, type Hand, kindHue, PURPOSE_HUES, SiteMap } from '../parts/SiteMap'
import { Sheet } from '../parts/Sheet'

type Block = Shape['Block']
type Head = Shape['SiteHead']
const PURPOSES = Object.keys(PURPOSE_HUES)
const count = (n: number, one: string) => `${n.toLocaleString()} ${n === 1 ? one : `${one}s`}`
const word = (text: string) => text.replace(/_/g, ' ')

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
      another={() => setMaking(true)}
    />
  )
}

function NewSite({ no, first, mayEdit, close }: { no: number; first: boolean; mayEdit: boolean; close: () => void }) {
  const [code, setCode] = useState('')
  const [name, setName] = useState('')
  const [zone, setZone] = useState(Intl.DateTimeFormat().resolvedOptions().timeZone || 'Europe/London')
  const make = useMutation({
    mutationFn: () =>
      got(
        client.POST('/api/ground/sites', {
          body: { base: no, code: code.trim().toUpperCase(), name, time_zone: zone },
        }),
      ),
    onSuccess: (made) => {
      chooseDraft(made.code)
      location.assign(`/site?site=${code.trim().toUpperCase()}`) // the studio works on the new site's draft from here on
    },
  })
  return (
    <form
      className="card"
      style={{ maxWidth: 620 }}
      onSubmit={(e) => {
        e.preventDefault()
        make.mutate()
      }}
    >
      <h1>{first ? 'Your first site' : 'Another site'}</h1>
      <p className="lead">
        A site is one warehouse or stockroom. Its bins, orders and stock are its own; items and partners are shared by
        all sites.
      </p>
      <div className="ask" style={{ gridTemplateColumns: '110px 1fr' }}>
        <label htmlFor="s-code">Code</label>
        <input
          id="s-code"
          className="input"
          style={{ width: 120, fontFamily: 'var(--mono)', textTransform: 'uppercase' }}
          value={code}
          onChange={(e) => setCode(e.target.value)}
          required
          maxLength={10}
          pattern="[A-Za-z0-9][A-Za-z0-9\-]*"
          autoFocus
        />
        <label htmlFor="s-name">Name</label>
        <input
          id="s-name"
          className="input"
          value={name}
          onChange={(e) => setName(e.target.value)}
          required
          minLength={2}
          maxLength={80}
        />
        <label htmlFor="s-zone">Time zone</label>
        <input id="s-zone" className="input" value={zone} onChange={(e) => setZone(e.target.value)} required />
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
}: {
  site: Head
  head: Shape['GroundHead']
  mayEdit: boolean
  sites: Head[]
  show: (code: string) => void
  another: () => void
}) {
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
  const levels = [...new Set(map.data?.level ?? [])].sort((a, b) => a - b)
  const lost = find !== '' && map.data !== undefined && !map.data.code.includes(find.trim().toUpperCase())
  return (
    <div className="page">
      <main className="main site">
        <div className="form" style={{ margin: 0 }}>
          <h1 style={{ margin: 0 }}>{site.name}</h1>
          {sites.length > 1 && (
            <select className="select" aria-label="Site" value={site.code} onChange={(e) => show(e.target.value)}>
              {sites.map((s) => (
                <option key={s.code} value={s.code}>
                  {s.code} {s.name}
                </option>
              ))}
            </select>
          )}
          <span className="quiet">
            {count(site.bins, 'bin')} in {count(site.zones, 'zone')}, {count(site.stock, 'row')} of stock,{' '}
            {count(site.orders, 'order')}; time of {site.time_zone}
          </span>
        </div>
        <div className="form" style={{ margin: '6px 0' }}>
          <select
            className="select"
            aria-label="Colour by"
            value={by}
            onChange={(e) => setBy(e.target.value as ColourBy)}
          >
            <option value="purpose">what zones are for</option>
            <option value="kind">types of bins</option>
            <option value="fill">how full</option>
          </select>
          {levels.length > 1 && (
            <select
              className="select"
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
            </select>
          )}
          <form
            onSubmit={(e) => {
              e.preventDefault()
              const code = find.trim().toUpperCase()
              if (hand.current?.show(code)) setPicked(new Set([code]))
            }}
          >
            <input
              className="input"
              style={{ width: 150, fontFamily: 'var(--mono)' }}
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
              by={by}
              picked={picked}
              pick={(codes, add) => setPicked(add ? new Set([...picked, ...codes]) : new Set(codes))}
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
        {map.data && <Legend map={map.data} by={by} />}
      </main>
      <aside className="bench" aria-label="Bench">
        {laying && mayEdit ? (
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

/** What the site has and what to do next: the way from nothing to a site that works. */
function About({
  site,
  mayEdit,
  no,
  lay,
  bring,
  another,
}: {
  site: Head
  mayEdit: boolean
  no: number
  lay: () => void
  bring: () => void
  another: () => void
}) {
  const say = useContext(Say)
  const queries = useQueryClient()
  const change = useGroundChange()
  const failed = (e: unknown) => say(e instanceof Trouble ? e.message : String(e))
  const draft = site.drafts[0]
  const write = useMutation({
    mutationFn: () => got(client.POST('/api/drafts/{id}/starter', { params: { path: { id: draft?.id ?? '' } } })),
    onSuccess: (made) => {
      change.done(made.says)
      void queries.invalidateQueries({ queryKey: ['draft'] })
      void queries.invalidateQueries({ queryKey: ['me'] })
    },
    onError: failed,
  })
  const order = useMutation({
    mutationFn: () => got(client.POST('/api/ground/test-order', { body: { base: no, site: site.code } })),
    onSuccess: (made) => change.done(made.says),
    onError: failed,
  })
  const over = useMutation({
    mutationFn: async (id: string) => {
      const found = await got(client.GET('/api/drafts/{id}', { params: { path: { id } } }))
      return got(
        client.POST('/api/drafts/{id}/move-over', { params: { path: { id } }, body: { version: found.version } }),
      )
    },
    onSuccess: (made) => (change.done(made.says), void queries.invalidateQueries({ queryKey: ['draft'] })),
    onError: failed,
  })
  const [sure, setSure] = useState(false)
  const working = site.drafts.find((d) => d.id === DRAFT) ?? draft
  const begin = useMutation({
    mutationFn: async () => {
      const id = working?.id ?? ''
      const found = await got(client.GET('/api/drafts/{id}', { params: { path: { id } } }))
      return got(client.POST('/api/drafts/{id}/live', { params: { path: { id } }, body: { version: found.version } }))
    },
    onSuccess: (world) => {
      setSure(false)
      change.done(`${world.name} has begun.`)
      void queries.invalidateQueries({ queryKey: ['worlds'] })
      void queries.invalidateQueries({ queryKey: ['draft'] })
    },
  })
  const steps: [boolean, string, React.ReactNode][] = [
    [
      site.bins > 0,
      'Bins',
      <>
        <Button onClick={lay} disabled={!mayEdit}>
          Lay out bins
        </Button>{' '}
        <Button onClick={bring} disabled={!mayEdit}>
          Bring files in
        </Button>
      </>,
    ],
    [
      draft?.has_rules ?? false,
      'Rules',
      draft?.has_rules ? null : (
        <Button key="r" onClick={() => write.mutate()} disabled={!mayEdit || !draft || site.bins === 0}>
          Write first rules from the zones
        </Button>
      ),
    ],
    [
      site.orders > 0,
      'An order',
      <Button key="o" onClick={() => order.mutate()} disabled={!mayEdit}>
        Make a test order to receive
      </Button>,
    ],
  ]
  return (
    <>
      <h2>From nothing to a live floor</h2>
      <ol className="ready">
        {steps.map(([there, name, act]) => (
          <li key={name}>
            <span className={`mark ${there ? 'holds' : 'doubt'}`}>{there ? '● ' : '○ '}</span>
            <b>{name}</b> {there ? <span className="quiet">there</span> : null}
            <div>{act}</div>
          </li>
        ))}
        <li>
          <span className="mark info">▸ </span>
          <b>Rehearse</b>
          <div className="quiet">On Rehearsals, begin a run and play it on the handset.</div>
        </li>
        <li>
          <span className={`mark ${site.live ? 'holds' : 'info'}`}>{site.live ? '● ' : '▸ '}</span>
          <b>Live floor</b>{' '}
          {site.live ? (
            <span className="quiet">
              there: its{' '}
              <Link className="link" to={`/host?world=${site.live}`}>
                host
              </Link>
              , its{' '}
              <Link className="link" to={`/stock?world=${site.live}`}>
                stock
              </Link>
            </span>
          ) : (
            <>
              <div className="quiet">
                People work on it with the rules as they are now; its log stays. Begin it when your rehearsals hold.
              </div>
              <Button onClick={() => setSure(true)} disabled={!mayEdit || !draft?.has_rules}>
                Begin the live floor
              </Button>
            </>
          )}
        </li>
      </ol>
      <Sheet open={sure} onClose={() => setSure(false)} label="Begin the live floor">
        <div style={{ padding: 20 }}>
          <h2 style={{ marginTop: 0 }}>Begin the live floor of {site.name}</h2>
          <p>
            {working?.name} is put in force as it stands, and the floor begins with the {count(site.stock, 'row')} of
            stock and {count(site.orders, 'order')} of the ground as that draft has it. From then on real scans and a
            real host may change it; nothing takes it back.
          </p>
          {begin.error && (
            <p className="mark fails" style={{ whiteSpace: 'normal' }}>
              ✕ <Told text={begin.error.message} />
            </p>
          )}
          <span className="form">
            <Button variant="contained" onClick={() => begin.mutate()} disabled={begin.isPending}>
              Begin it
            </Button>
            <Button onClick={() => setSure(false)}>Not yet</Button>
          </span>
        </div>
      </Sheet>
      <h2>Drafts of the rules here</h2>
      {site.drafts.map((d) => (
        <div key={d.id} className="pin" style={{ display: 'block' }}>
          <div className="form" style={{ margin: 0 }}>
            <b>{d.name}</b> <span className="code">{d.id}</span>
            <span style={{ flex: 1 }} />
            {d.id === DRAFT ? (
              <span className="quiet">open in the studio</span>
            ) : (
              <Button
                onClick={() => {
                  chooseDraft(d.id)
                  location.reload()
                }}
              >
                Work on it
              </Button>
            )}
          </div>
          {!d.up_to_date && (
            <>
              <p className="mark doubt" style={{ whiteSpace: 'normal' }}>
                ▲ stands on the ground as it was before
              </p>
              <ul>
                {d.missing.map((f) => (
                  <li key={f.place}>
                    <Told text={f.says} />
                  </li>
                ))}
              </ul>
              <Button onClick={() => over.mutate(d.id)} disabled={!mayEdit}>
                Move it over all the same
              </Button>
            </>
          )}
        </div>
      ))}
      <h2 style={{ marginTop: 18 }}>Files</h2>
      <div className="form">
        <Button component="a" href={`/api/ground/workbook?site=${site.code}`}>
          Take everything out (XLSX)
        </Button>
      </div>
      <Button onClick={another} disabled={!mayEdit}>
        Another site
      </Button>
    </>
  )
}

const PRESETS: Record<string, Partial<Block>> = {
  'Dock doors': {
    purpose: 'door',
    bin_type: 'LANE',
    zone: 'DOOR',
    zone_name: 'Doors',
    aisles: 4,
    bays: 1,
    levels: 1,
    aisle_pitch_mm: 6_000,
    pattern: '{zone}-{aisle}',
    y_mm: 0,
  },
  'Receiving lanes': {
    purpose: 'receiving',
    bin_type: 'LANE',
    zone: 'RCV',
    zone_name: 'Receiving',
    aisles: 4,
    bays: 1,
    levels: 1,
    aisle_pitch_mm: 6_000,
    pattern: '{zone}-{aisle:02}',
    y_mm: 4_000,
  },
  'Pallet racks': {
    purpose: 'reserve',
    bin_type: 'RACK',
    zone: 'RSV',
    zone_name: 'Reserve',
    aisles: 4,
    bays: 20,
    levels: 4,
    bay_pitch_mm: 1_200,
    height_mm: 1_900,
    pattern: 'R-{aisle:02}-{bay:02}-{level}',
    y_mm: 10_000,
  },
  'Pick shelves': {
    purpose: 'pick',
    bin_type: 'SHELF',
    zone: 'PCK',
    zone_name: 'Pick',
    aisles: 3,
    bays: 16,
    levels: 4,
    bay_pitch_mm: 1_000,
    height_mm: 450,
    pattern: 'P-{aisle:02}-{bay:02}-{level}',
    y_mm: 10_000,
  },
  'Floor places': {
    purpose: 'bulk',
    bin_type: 'PLACE',
    zone: 'BLK',
    zone_name: 'Bulk',
    aisles: 4,
    bays: 12,
    levels: 1,
    aisle_pitch_mm: 3_000,
    bay_pitch_mm: 1_400,
    pattern: 'B-{aisle:02}-{bay:02}',
    y_mm: 10_000,
  },
}
const PLAIN: Block = {
  zone: '',
  zone_name: '',
  purpose: 'reserve',
  bin_type: 'RACK',
  aisles: 1,
  bays: 1,
  levels: 1,
  slots: 1,
  first_aisle: 1,
  first_bay: 1,
  x_mm: 2_000,
  y_mm: 2_000,
  aisle_pitch_mm: 4_000,
  bay_pitch_mm: 1_200,
  height_mm: null,
  pattern: '{zone}-{aisle:02}-{bay:02}-{level}',
  walk: 'back_and_forth',
}

/** Blocks of bins with their codes, seen on the map before they are made. */
function LayOut({
  site,
  head,
  ghost,
  close,
  kinds,
}: {
  site: Head
  head: Shape['GroundHead']
  ghost: (map: Shape['SiteMap'] | null) => void
  close: () => void
  kinds: Shape['BinKindView'][]
}) {
  const change = useGroundChange()
  // codes are told apart across sites, so those of a further site begin with its own
  const preset = (name: string): Block => {
    const block = { ...PLAIN, ...PRESETS[name] }
    const before = head.sites.length > 1 ? `${site.code}-` : ''
    return {
      ...block,
      zone: before + block.zone,
      pattern: block.pattern.startsWith('{zone}') ? block.pattern : before + block.pattern,
    }
  }
  const [block, setBlock] = useState<Block>(() => preset(site.bins ? 'Pallet racks' : 'Receiving lanes'))
  const seen = useQuery({
    queryKey: ['layout', site.code, head.no, block],
    queryFn: () =>
      got(
        client.POST('/api/ground/layout', { body: { base: head.no, site: site.code, blocks: [block], apply: false } }),
      ),
    placeholderData: (before) => before,
    retry: false,
  })
  useEffect(() => ghost(seen.data?.map ?? null), [seen.data, ghost])
  const make = useMutation({
    mutationFn: () =>
      got(
        client.POST('/api/ground/layout', { body: { base: head.no, site: site.code, blocks: [block], apply: true } }),
      ),
    onSuccess: (made) => (ghost(null), change.done(`${made.made.toLocaleString()} bins were made.`)),
    onError: (e) => change.failed(e),
  })
  const set = (some: Partial<Block>) => setBlock({ ...block, ...some })
  const number = (name: keyof Block, says: string, metres = false) => (
    <label className="field" key={name}>
      <span>{says}</span>
      <input
        className="input"
        type="number"
        min={0}
        step={metres ? 0.1 : 1}
        value={block[name] === null ? '' : metres ? Number(block[name]) / 1_000 : String(block[name])}
        onChange={(e) =>
          set({
            [name]:
              e.target.value === '' && name === 'height_mm'
                ? null
                : Math.round(Number(e.target.value) * (metres ? 1_000 : 1)),
          })
        }
      />
    </label>
  )
  const problems = seen.data?.problems ?? []
  const first = seen.data?.map?.code
  return (
    <>
      <h2>
        Lay out bins{' '}
        <button className="link quiet" onClick={close}>
          close
        </button>
      </h2>
      <div className="form" style={{ margin: '0 0 8px' }}>
        {Object.keys(PRESETS).map((name) => (
          <Button key={name} onClick={() => setBlock({ ...preset(name), x_mm: block.x_mm })}>
            {name}
          </Button>
        ))}
      </div>
      <div className="fields">
        <label className="field">
          <span>zone</span>
          <input
            className="input"
            style={{ fontFamily: 'var(--mono)' }}
            value={block.zone}
            onChange={(e) => set({ zone: e.target.value.toUpperCase() })}
          />
        </label>
        <label className="field wide2">
          <span>its name</span>
          <input className="input" value={block.zone_name} onChange={(e) => set({ zone_name: e.target.value })} />
        </label>
        <label className="field wide2">
          <span>what it is for</span>
          <select
            className="select"
            value={block.purpose}
            onChange={(e) => set({ purpose: e.target.value as Block['purpose'] })}
          >
            {PURPOSES.map((p) => (
              <option key={p} value={p}>
                {word(p)}
              </option>
            ))}
          </select>
        </label>
        <label className="field">
          <span>type of bin</span>
          <select className="select" value={block.bin_type} onChange={(e) => set({ bin_type: e.target.value })}>
            {kinds.map((k) => (
              <option key={k.code} value={k.code}>
                {k.name} ({k.limits})
              </option>
            ))}
          </select>
        </label>
        {number('aisles', 'aisles')}
        {number('bays', 'bays')}
        {number('levels', 'levels')}
        {number('slots', 'slots a bay')}
        {number('first_aisle', 'first aisle')}
        {number('first_bay', 'first bay')}
        {number('x_mm', 'from the west, m', true)}
        {number('y_mm', 'from the south, m', true)}
        {number('height_mm', 'clear height, m', true)}
        {number('aisle_pitch_mm', 'aisle to aisle, m', true)}
        {number('bay_pitch_mm', 'bay to bay, m', true)}
        <label className="field">
          <span>walk</span>
          <select
            className="select"
            value={block.walk}
            onChange={(e) => set({ walk: e.target.value as Block['walk'] })}
          >
            <option value="back_and_forth">back and forth</option>
            <option value="same_way">same way each</option>
          </select>
        </label>
        <label className="field wide3">
          <span>
            codes by the pattern: {'{zone} {aisle:02} {bay:02} {level} {slot}'}, {'{level:A}'} for letters
          </span>
          <input
            className="input"
            style={{ fontFamily: 'var(--mono)' }}
            value={block.pattern}
            onChange={(e) => set({ pattern: e.target.value.replace(/[a-z]+(?![^{]*\})/g, (t) => t.toUpperCase()) })}
          />
        </label>
      </div>
      {seen.error && (
        <p className="mark fails" style={{ whiteSpace: 'normal' }}>
          ✕ <Told text={seen.error.message} />
        </p>
      )}
      {problems.map((p) => (
        <p key={p} className="mark fails" style={{ whiteSpace: 'normal' }}>
          ✕ <Told text={p} />
        </p>
      ))}
      {first && problems.length === 0 && (
        <p>
          <span className="code">{first[0]}</span>{' '}
          {first.length > 1 && (
            <>
              to <span className="code">{first.at(-1)}</span>
            </>
          )}
          , drawn on the map in outline.
        </p>
      )}
      <Button
        variant="contained"
        onClick={() => make.mutate()}
        disabled={problems.length > 0 || !seen.data?.made || make.isPending}
      >
        {seen.data?.made
          ? `Make ${seen.data.made.toLocaleString()} ${seen.data.made === 1 ? 'bin' : 'bins'}`
          : 'Make the bins'}
      </Button>
    </>
  )
}

/** Bins picked on the map: what they are, and changed all at once. */
function Picked({
  map,
  picked,
  no,
  mayEdit,
  none,
}: {
  map: Shape['SiteMap']
  picked: Set<string>
  no: number
  mayEdit: boolean
  none: () => void
}) {
  const change = useGroundChange()
  const [blocked, setBlocked] = useState('')
  const [height, setHeight] = useState('')
  const codes = [...picked]
  const at = codes.map((c) => map.code.indexOf(c)).filter((n) => n >= 0)
  const kinds = [...new Set(at.map((n) => map.kinds[map.kind[n] ?? 0]?.code ?? ''))]
  const zones = [...new Set(at.map((n) => map.zones[map.zone[n] ?? 0]?.code ?? ''))]
  const shut = codes.filter((c) => map.blocked[c] !== undefined)
  const one = codes.length === 1 ? at[0] : undefined
  const many = (n: number) => (n === 1 ? 'the bin' : `${n.toLocaleString()} bins`)
  const put = useMutation({
    mutationFn: (cells: Record<string, string>) => {
      const says = `${many(codes.length)} ${codes.length === 1 ? 'was' : 'were'} changed: ${Object.entries(cells)
        .map(([k, v]) => `${word(k)} ${v || 'none'}`)
        .join(', ')}.`
      return got(
        client.POST('/api/ground/rows', {
          body: {
            base: no,
            says: says[0]?.toUpperCase() + says.slice(1),
            sheets: [],
            alter: { table: 'bins', codes, cells },
            gone: {},
          },
        }),
      )
    },
    onSuccess: (made) => change.amended(made),
    onError: (e) => change.failed(e),
  })
  const remove = useMutation({
    mutationFn: () =>
      got(
        client.POST('/api/ground/rows', {
          body: { base: no, says: '', sheets: [], alter: null, gone: { bins: codes } },
        }),
      ),
    onSuccess: (made) => (none(), change.amended(made)),
    onError: (e) => change.failed(e),
  })
  const full = one === undefined ? null : map.fill[one]
  return (
    <>
      <h2>
        {one !== undefined ? <span className="code">{codes[0]}</span> : `${codes.length.toLocaleString()} bins`}{' '}
        <button className="link quiet" onClick={none}>
          let go
        </button>
      </h2>
      <p className="quiet">
        {one === undefined && (
          <>
            {codes.slice(0, 3).join(', ')} {codes.length > 3 && '…'}
            <br />
          </>
        )}
        in {zones.map((z) => map.zones.find((x) => x.code === z)?.name ?? z).join(', ')}
        {one !== undefined && (
          <>
            , level {(map.level[one] ?? 0) + 1}, turn {map.walk[one]} of the walk, at{' '}
            {((map.x[one] ?? 0) / 1000).toFixed(1)} m east and {((map.y[one] ?? 0) / 1000).toFixed(1)} m north;{' '}
            {full === 0 ? 'empty' : full === -1 ? 'holds goods' : `${full} % full`}
          </>
        )}
      </p>
      <div className="ask" style={{ gridTemplateColumns: '90px 1fr' }}>
        <label htmlFor="k-kind">Type</label>
        <select
          id="k-kind"
          className="select"
          value={kinds.length === 1 ? kinds[0] : ''}
          disabled={!mayEdit || put.isPending}
          onChange={(e) => put.mutate({ bin_type: e.target.value })}
        >
          {kinds.length > 1 && <option value="">several: choose one for all</option>}
          {map.kinds.map((k) => (
            <option key={k.code} value={k.code}>
              {k.name} ({k.limits})
            </option>
          ))}
        </select>
        <label htmlFor="k-block">Blocked</label>
        <span className="form" style={{ margin: 0 }}>
          {shut.length === codes.length ? (
            <>
              <span className="mark fails">✕ {map.blocked[codes[0] ?? '']}</span>
              <Button disabled={!mayEdit} onClick={() => put.mutate({ blocked: '' })}>
                Open {many(codes.length)}
              </Button>
            </>
          ) : (
            <>
              <input
                id="k-block"
                className="input"
                style={{ width: 150 }}
                placeholder="why, in a few words"
                value={blocked}
                onChange={(e) => setBlocked(e.target.value)}
              />
              <Button
                disabled={!mayEdit || blocked.trim().length < 3}
                onClick={() => put.mutate({ blocked: blocked.trim() })}
              >
                Block {many(codes.length)}
              </Button>
            </>
          )}
        </span>
        <label htmlFor="k-height">Height, m</label>
        <form
          className="form"
          style={{ margin: 0 }}
          onSubmit={(e) => {
            e.preventDefault()
            put.mutate({
              height_mm: height.trim() === '' ? '' : String(Math.round(Number(height.replace(',', '.')) * 1000)),
            })
          }}
        >
          <input
            id="k-height"
            className="input"
            style={{ width: 150 }}
            inputMode="decimal"
            pattern="[0-9]+([.,][0-9]+)?"
            placeholder="clear; none: no limit"
            value={height}
            onChange={(e) => setHeight(e.target.value)}
          />
          <Button type="submit" disabled={!mayEdit || put.isPending}>
            Set it
          </Button>
        </form>
      </div>
      <Button color="error" disabled={!mayEdit || remove.isPending} onClick={() => remove.mutate()}>
        Take {many(codes.length)} out
      </Button>
    </>
  )
}
