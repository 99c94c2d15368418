import Button from '@mui/material/Button'
import { useQuery } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { DRAFT, useDraft, useGroundHead } from './data'
import { kindHue, type Label, type Line, type Spot } from './mapScene'
import { Sheet } from './Sheet'
import { SiteMap } from './SiteMap'
import { Skeleton } from './Skeleton'

type View = Shape['RoundsView']
/** What is drawn: all of it, what one picker walks, or one round. */
type Shown = { picker?: number; round?: number }
const DASHES = [undefined, [9, 5], [2, 5], [12, 4, 2, 4]]
const n = (x: number) => x.toLocaleString('en')
const NONE = new Set<string>()

/** The rounds in which a wave of a plan would be picked, or what is still to be walked of one at work, on the map: who walks which, how evenly that is shared,
 * and where pickers meet. */
export default function WaveRounds(props: { world: string; plan?: string; wave?: string; close: () => void }) {
  const { world, plan = '', wave, close } = props
  const draft = useDraft()
  const head = useGroundHead().data
  const [shown, setShown] = useState<Shown>({})
  const answer = useQuery({
    queryKey: wave ? ['world', world, 'rounds', wave] : ['bench', 'rounds', world, plan, draft.data?.rulebook],
    enabled: !!wave || !!draft.data,
    retry: false,
    queryFn: () => {
      if (wave)
        return got(client.GET('/api/worlds/{id}/wave/rounds', { params: { path: { id: world }, query: { wave } } }))
      return got(
        client.POST('/api/drafts/{id}/bench/rounds', {
          params: { path: { id: DRAFT } },
          body: { world: world || null, plan },
        }),
      )
    },
  })
  const a = answer.data
  const map = useQuery({
    queryKey: ['site map', a?.site, head?.no],
    enabled: !!a,
    queryFn: () => got(client.GET('/api/ground/map', { params: { query: { site: a?.site ?? '' } } })),
  })
  const drawn = useMemo(
    () => (a && map.data ? lines(a, map.data, shown) : { lines: [], tags: [] }),
    [a, map.data, shown],
  )
  return (
    <Sheet open onClose={close} label="Rounds of the wave" fullWidth maxWidth="xl">
      <div className="rounds">
        <div className="rounds-map">
          <div className="mapbox">
            {a && map.data ? (
              <SiteMap
                map={map.data}
                level={null}
                by="calm"
                picked={NONE}
                pick={() => undefined}
                lines={drawn.lines}
                tags={drawn.tags}
                says={`The rounds of ${wave ? 'wave' : 'a wave of'} ${a.plan}`}
              />
            ) : (
              !answer.error && <Skeleton />
            )}
          </div>
        </div>
        <div className="rounds-list">
          <h2 style={{ marginTop: 0 }}>
            Rounds <small className="quiet">{a?.plan}</small>
          </h2>
          {answer.error && <p className="empty">{answer.error.message}</p>}
          {a && <Walked of={a} at={!!wave} shown={shown} show={setShown} />}
          <div className="form">
            {(shown.picker !== undefined || shown.round !== undefined) && (
              <Button onClick={() => setShown({})}>Show all</Button>
            )}
            <Button onClick={close}>Close</Button>
          </div>
        </div>
      </div>
    </Sheet>
  )
}

/** Who walks what, and what that says of the plan. */
function Walked(props: { of: View; at: boolean; shown: Shown; show: (s: Shown) => void }) {
  const { of: a, at: work, shown, show } = props
  const by = new Map(a.rounds.map((r) => [r.no, r]))
  const most = Math.max(1, ...a.pickers.map((p) => p.metres))
  const idle = a.pickers.filter((p) => p.rounds.length === 0).length
  return (
    <>
      {a.rounds.length === 0 && <p className="empty">Nothing of it is left to walk.</p>}
      <p>
        {a.rounds.some((r) => r.begins)
          ? 'Each begins and ends where its zone is handed totes. '
          : a.start && (
              <>
                They begin and end at <span className="code">{a.start}</span>.{' '}
              </>
            )}
        {idle > 0 && `${idle === 1 ? 'One picker has' : `${idle} pickers have`} nothing to walk. `}
        {a.over_even > 0 && `Whoever walks most walks ${a.over_even} % more than an even share.`}
      </p>
      <ol className="walkers" aria-label="Pickers and their rounds">
        {a.pickers.map((p, at) => (
          <li key={at}>
            <button
              className="link"
              aria-pressed={shown.picker === at}
              onClick={() => show(shown.picker === at ? {} : { picker: at })}
            >
              <b style={{ color: kindHue(at) }}>{at + 1}</b>{' '}
              {p.person ? <Told text={`@${p.person}`} /> : work ? `${p.crew}: not taken yet` : p.crew}
            </button>{' '}
            <span className="mono">{n(p.metres)} m</span>{' '}
            <span className="quiet">{p.rounds.length === 1 ? '1 round' : `${p.rounds.length} rounds`}</span>
            <div
              aria-hidden="true"
              className="stretch"
              style={{ width: `${Math.max(1, (100 * p.metres) / most)}%`, background: kindHue(at) }}
            />
            <ul>
              {p.rounds.map((no) => {
                const r = by.get(no)
                return (
                  r && (
                    <li key={no}>
                      <button
                        className="link"
                        aria-pressed={shown.round === no}
                        onClick={() => show(shown.round === no ? {} : { round: no })}
                      >
                        {r.task || (r.cart > 0 ? `Task ${r.no}, cart ${r.cart}` : `Task ${r.no}`)}
                      </button>{' '}
                      <span className="mono">{n(r.metres)} m</span>{' '}
                      <span className="quiet">
                        {r.lines === 1 ? '1 line' : `${r.lines} lines`} in{' '}
                        {r.bins.length === 1 ? '1 bin' : `${r.bins.length} bins`} → {r.to || 'a bin the worker chooses'}
                      </span>
                    </li>
                  )
                )
              })}
            </ul>
          </li>
        ))}
      </ol>
      {a.more > 0 && <p className="quiet">{a.more} rounds more are not drawn.</p>}
      {a.unwalked > 0 && (
        <p className="mark doubt" style={{ whiteSpace: 'normal' }}>
          ▲ {a.unwalked === 1 ? '1 task leads' : `${a.unwalked} tasks lead`} to a bin to which there is no way.
        </p>
      )}
      {a.meetings.length > 0 && (
        <details>
          <summary>
            {a.meetings.length === 1 ? '1 aisle' : `${a.meetings.length} aisles`} to which several pickers go
          </summary>
          <ul aria-label="Aisles to which several pickers go">
            {a.meetings.slice(0, 40).map((m) => (
              <li key={`${m.zone} ${m.aisle}`}>
                {m.zone}, aisle <span className="code">{m.aisle}</span>: pickers {m.pickers.join(', ')}
              </li>
            ))}
          </ul>
        </details>
      )}
    </>
  )
}

/** What is drawn over the map: a line for each round, in the colour and with the dashes of its picker; where one round is shown, its stops. */
function lines(a: View, map: Shape['SiteMap'], shown: Shown): { lines: Line[]; tags: Label[] } {
  const of = new Map(a.pickers.flatMap((p, at) => p.rounds.map((no) => [no, at] as const)))
  const mine = a.rounds.filter(
    (r) =>
      (shown.picker === undefined || of.get(r.no) === shown.picker) &&
      (shown.round === undefined || r.no === shown.round),
  )
  const drawn = mine.map((r): Line => {
    const at = of.get(r.no) ?? 0
    return {
      spots: r.spots.map(([x = 0, y = 0]): Spot => [x, y]),
      colour: kindHue(at),
      width: 3,
      dash: DASHES[at % DASHES.length],
      arrows: mine.length <= 3,
      cased: true,
      aside: (at % 4) * 3,
    }
  })
  const one = mine.length === 1 ? mine[0] : undefined
  if (!one) return { lines: drawn, tags: [] }
  const place = new Map(map.code.map((code, k) => [code, k]))
  const colour = kindHue(of.get(one.no) ?? 0)
  const stops = [one.begins || a.start, ...one.bins].flatMap((code, k): Label[] => {
    const at = place.get(code)
    return at === undefined
      ? []
      : [{ at: [map.x[at] ?? 0, map.y[at] ?? 0], says: k === 0 ? 'start' : String(k), colour }]
  })
  return { lines: drawn, tags: stops }
}
