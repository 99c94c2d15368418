import Button from '@mui/material/Button'
import { useQuery } from '@tanstack/react-query'
import { useEffect, useMemo, useState } from 'react'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { Entry, Pick, Tick } from '../parts/controls'
import type { Label, Line, Spot } from '../parts/mapScene'
import { type Drawn, NOTHING } from './ways'

const MOST = 200
const spotsOf = (tour: Shape['TourView']) => tour.spots.map(([x = 0, y = 0]): Spot => [x, y])
const upper = (text: string) => text.trim().toUpperCase()

/** "These bins, which tour?": the way between two bins, or over many, as short as can be and in the order of the numbers. */
export function Tour({
  site,
  no,
  map,
  stops,
  setStops,
  draw,
}: {
  site: string
  no: number
  map: Shape['SiteMap']
  stops: string[]
  setStops: (codes: string[]) => void
  draw: (drawn: Drawn) => void
}) {
  const place = useMemo(() => new Map(map.code.map((code, n) => [code, n])), [map])
  const doors = useMemo(() => ofPurpose(map, ['door', 'dock', 'receiving']), [map])
  const [start, setStart] = useState('')
  const [end, setEnd] = useState('')
  const [more, setMore] = useState('')
  const [shown, setShown] = useState<'both' | 'shortest' | 'numbered'>('both')
  const from = upper(start) || doors[0] || map.code[0] || ''
  const to = upper(end)
  const asked = stops.length > 0 || (to !== '' && to !== from)
  const tour = useQuery({
    queryKey: ['site map', 'tour', site, no, from, to, ...stops],
    enabled: asked && place.has(from) && (to === '' || place.has(to)),
    placeholderData: (before) => before,
    retry: false,
    queryFn: () =>
      got(client.POST('/api/ground/tour', { body: { site, start: from, stops, end: to === from ? '' : to } })),
  })
  const found = asked && !tour.error ? tour.data : undefined
  const over = useMemo<Drawn>(() => {
    if (!found) return NOTHING
    const lines: Line[] = []
    if (shown !== 'shortest' && stops.length > 0)
      lines.push({ spots: spotsOf(found.numbered), colour: '--clay', width: 2, dash: [6, 5], cased: true, aside: 4 })
    if (shown !== 'numbered')
      lines.push({ spots: spotsOf(found.shortest), colour: '--primary', width: 3, arrows: true, cased: true })
    const order = (shown === 'numbered' ? found.numbered : found.shortest).bins
    const tags: Label[] = []
    order.forEach((code, n) => {
      const at = place.get(code)
      if (at === undefined || (n === order.length - 1 && code === order[0])) return
      const says = n === 0 ? 'start' : n === order.length - 1 && to !== '' ? 'end' : String(n)
      tags.push({ at: [map.x[at] ?? 0, map.y[at] ?? 0], says, colour: shown === 'numbered' ? '--clay' : '--primary' })
    })
    return { lines, tags }
  }, [found, shown, map, place, to, stops.length])
  useEffect(() => draw(over), [over, draw])
  useEffect(() => () => draw(NOTHING), [draw])

  const add = () => {
    const codes = more
      .split(/[\s,;]+/)
      .map(upper)
      .filter(Boolean)
    setStops([...new Set([...stops, ...codes])].slice(0, MOST))
    setMore('')
  }
  const draws = (count: number) => {
    const storage = ofPurpose(map, ['pick', 'reserve', 'bulk', 'hazard'])
    const some = new Set<string>()
    while (some.size < Math.min(count, storage.length))
      some.add(storage[Math.floor(Math.random() * storage.length)] ?? '')
    setStops([...some])
  }
  const unknown = [start && from, to, ...stops].filter((c) => c && !place.has(c))
  return (
    <>
      <h2>These bins, which tour?</h2>
      <p className="quiet">Click bins on the map, in any order; once more lets one go.</p>
      <div className="ask" style={{ gridTemplateColumns: '90px 1fr' }}>
        <label htmlFor="t-start">Start</label>
        <Entry
          id="t-start"
          style={{ width: 190, fontFamily: 'var(--mono)' }}
          placeholder={doors[0] ?? ''}
          value={start}
          onChange={(e) => setStart(e.target.value)}
        />
        <label htmlFor="t-end">End</label>
        <Entry
          id="t-end"
          style={{ width: 190, fontFamily: 'var(--mono)' }}
          placeholder="back at the start"
          value={end}
          onChange={(e) => setEnd(e.target.value)}
        />
        <label htmlFor="t-more">Bins</label>
        <form
          className="form"
          style={{ margin: 0 }}
          onSubmit={(e) => {
            e.preventDefault()
            add()
          }}
        >
          <Entry
            id="t-more"
            style={{ width: 190, fontFamily: 'var(--mono)' }}
            placeholder="codes, then Enter"
            value={more}
            onChange={(e) => setMore(e.target.value)}
          />
        </form>
      </div>
      <div className="form" style={{ margin: '0 0 8px' }}>
        <Button onClick={() => draws(12)}>Draw 12 bins</Button>
        <Button onClick={() => draws(40)}>Draw 40</Button>
        {stops.length > 0 && <Button onClick={() => setStops([])}>Let all go</Button>}
      </div>
      {unknown.length > 0 && (
        <p className="mark fails" style={{ whiteSpace: 'normal' }}>
          ✕ <Told text={`There is no bin \`${unknown.join('`, `')}\` here.`} />
        </p>
      )}
      {asked && tour.error && unknown.length === 0 && (
        <p className="mark fails" style={{ whiteSpace: 'normal' }}>
          ✕ <Told text={tour.error.message} />
        </p>
      )}
      {found && (
        <div aria-busy={tour.isPlaceholderData} style={{ opacity: tour.isPlaceholderData ? 0.45 : 1 }}>
          <Found
            found={found}
            walk={stops.length === 0}
            shown={shown}
            show={setShown}
            letGo={(c) => setStops(stops.filter((s) => s !== c))}
          />
        </div>
      )}
      <Numbered site={site} no={no} start={place.has(from) ? from : ''} map={map} />
    </>
  )
}

function Found({
  found,
  walk,
  shown,
  show,
  letGo,
}: {
  found: Shape['ToursView']
  walk: boolean
  shown: 'both' | 'shortest' | 'numbered'
  show: (which: 'both' | 'shortest' | 'numbered') => void
  letGo: (code: string) => void
}) {
  const { shortest, numbered } = found
  const most = Math.max(shortest.metres, numbered.metres, 1)
  const stops = shortest.bins.slice(1)
  if (walk)
    return (
      <p className="verdict">
        <b>{shortest.metres.toLocaleString()} m</b> on foot from <span className="code">{shortest.bins[0]}</span> to{' '}
        <span className="code">{shortest.bins.at(-1)}</span>
      </p>
    )
  const bar = (name: string, view: Shape['TourView'], colour: string, note: string) => (
    <div className="metre">
      <span>{name}</span>
      <span className="bar" aria-hidden="true">
        <span style={{ width: `${(100 * view.metres) / most}%`, background: colour }} />
      </span>
      <b>{view.metres.toLocaleString()} m</b>
      <span className="quiet">{note}</span>
    </div>
  )
  return (
    <>
      <p className={`mark ${found.is_shortest ? 'holds' : 'doubt'}`} style={{ whiteSpace: 'normal' }}>
        {found.is_shortest ? '● ' : '▲ '}
        {found.says}
      </p>
      {bar('Shortest', shortest, 'var(--primary)', found.how)}
      {bar('Numbered', numbered, 'var(--clay)', longer(found.longer_permille))}
      <div className="form" style={{ margin: '6px 0' }}>
        {(['shortest', 'numbered'] as const).map((which) => (
          <label key={which}>
            <Tick
              checked={shown === 'both' || shown === which}
              onChange={(e) => {
                const other = which === 'shortest' ? 'numbered' : 'shortest'
                show(e.target.checked ? 'both' : other)
              }}
            />{' '}
            draw {which === 'shortest' ? 'the shortest' : 'the numbered order'}
          </label>
        ))}
      </div>
      <ol className="stops">
        {(shown === 'numbered' ? numbered.bins.slice(1) : stops).map((code, n, all) => (
          <li key={`${code} ${n}`} value={n + 1}>
            <span className="code">{code}</span>
            {n < all.length - 1 ? (
              <button className="link quiet" onClick={() => letGo(code)} aria-label={`let ${code} go`}>
                let go
              </button>
            ) : null}
          </li>
        ))}
      </ol>
    </>
  )
}

const longer = (permille: number) =>
  permille === 0 ? 'as short' : `${(permille / 10).toLocaleString()} % longer than the shortest`

/** How much longer this site's numbered walk order is than the shortest tours, over many drawn ones. */
function Numbered({ site, no, start, map }: { site: string; no: number; start: string; map: Shape['SiteMap'] }) {
  const [stops, setStops] = useState(25)
  const [zone, setZone] = useState('')
  const many = useQuery({
    queryKey: ['site map', 'numbered', site, no, start, stops, zone],
    placeholderData: (before) => before,
    retry: false,
    queryFn: () => got(client.GET('/api/ground/numbered', { params: { query: { site, start, stops, zone } } })),
  })
  return (
    <>
      <h2 style={{ marginTop: 18 }}>The walk order of this site</h2>
      <div className="form" style={{ margin: '0 0 6px' }}>
        <Pick aria-label="Stops of a tour" value={stops} onChange={(e) => setStops(Number(e.target.value))}>
          {[5, 10, 25, 40].map((n) => (
            <option key={n} value={n}>
              {n} stops
            </option>
          ))}
        </Pick>
        <Pick aria-label="Among the bins of" value={zone} onChange={(e) => setZone(e.target.value)}>
          <option value="">in all storage</option>
          {map.zones.map((z) => (
            <option key={z.code} value={z.code}>
              in {z.name}
            </option>
          ))}
        </Pick>
      </div>
      {many.error ? (
        <p className="quiet">
          <Told text={many.error.message} />
        </p>
      ) : many.data ? (
        <p>
          Over {many.data.tours} tours of {many.data.stops} stops from <span className="code">{many.data.start}</span>,
          the numbered order is <b>{(many.data.longer_permille / 10).toLocaleString()} % longer</b> than the shortest
          tours
          {many.data.proved ? ' (proved)' : ' found'}: {many.data.numbered_metres.toLocaleString()} m and{' '}
          {many.data.shortest_metres.toLocaleString()} m.
        </p>
      ) : null}
    </>
  )
}

function ofPurpose(map: Shape['SiteMap'], purposes: string[]): string[] {
  const wanted = new Set(map.zones.flatMap((z, n) => (purposes.includes(z.purpose) ? [n] : [])))
  return map.code.filter((_, n) => wanted.has(map.zone[n] ?? -1))
}
