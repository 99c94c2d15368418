import Button from '@mui/material/Button'
import ListItemText from '@mui/material/ListItemText'
import Menu from '@mui/material/Menu'
import MenuItem from '@mui/material/MenuItem'
import { useSortable } from '@dnd-kit/sortable'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { lazy, Suspense, useContext, useState } from 'react'
import { Link } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { DRAFT, Say, useDraft, useGroundHead } from '../parts/data'
import { Skeleton } from '../parts/Skeleton'
import { moveStyle, Sortable } from '../parts/Sortable'

const HoursChart = lazy(() => import('./HoursChart'))

type Numbered = Shape['NumberView']
const SIGN = { holds: '●', doubt: '▲', stops: '✕', information: '◆' } as const
const MARK = { holds: 'holds', doubt: 'doubt', stops: 'fails', information: 'info' } as const

/** The first page: numbers that the person chose and put in order, each a link to where one does something about it. */
export default function Today({ me }: { me: Shape['Me'] }) {
  const draft = useDraft()
  const queries = useQueryClient()
  const say = useContext(Say)
  const sites = useGroundHead().data?.sites
  const site = sites?.find((s) => s.code === draft.data?.site)
  const floor = site?.live ?? ''
  const [arranging, setArranging] = useState(false)
  const [from, setFrom] = useState<HTMLElement | null>(null)
  const key = ['world', floor, 'today', DRAFT, draft.data?.rulebook] // told anew with every entry of the floor
  const today = useQuery({
    queryKey: key,
    enabled: !!draft.data && sites !== undefined,
    placeholderData: (before) => before,
    queryFn: () => got(client.GET('/api/today', { params: { query: { draft: DRAFT } } })),
  })
  const t = today.data
  const ids = t?.numbers.map((n) => n.id) ?? []
  // one after the other: sent at once, the server might keep the one before last
  const send = useMutation({
    scope: { id: 'today' },
    mutationKey: ['today'],
    mutationFn: (value: string[] | null) =>
      got(client.PUT('/api/me/kept/{name}', { params: { path: { name: 'today' } }, body: { value } })),
    onError: (e: Error) => say(e.message),
    onSettled: () => {
      if (queries.isMutating({ mutationKey: ['today'] }) === 1) void queries.invalidateQueries({ queryKey: key })
    },
  })
  const choose = async (value: string[] | null) => {
    if (t && value) {
      // what was chosen shows at once
      const all = new Map([...t.numbers, ...t.others.map((o) => ({ ...o, figure: null }))].map((n) => [n.id, n]))
      const numbers = value.flatMap((id) => all.get(id) ?? [])
      const others = [...all.values()].filter((n) => !value.includes(n.id)).map(({ id, title }) => ({ id, title }))
      await queries.cancelQueries({ queryKey: key })
      queries.setQueryData<Shape['TodayView']>(key, { ...t, own: true, numbers, others })
    }
    send.mutate(value)
  }
  return (
    <div className="page wide">
      <main className="main">
        <h1>Today</h1>
        <p className="lead">{site ? `${site.name}. ` : ''}What waits, and where something is done about it.</p>
        {today.error && <p className="empty">{today.error.message}</p>}
        {!t ? (
          !today.error && <Skeleton />
        ) : (
          <>
            <Sortable
              ids={ids}
              called="Number"
              grid
              moved={(a, b) => {
                const next = [...ids]
                next.splice(b, 0, ...next.splice(a, 1))
                void choose(next)
              }}
            >
              <ul className="tiles" aria-label="Numbers">
                {t.numbers.map((n, at) => (
                  <Tile
                    key={n.id}
                    n={n}
                    at={at}
                    floor={t.floor}
                    arranging={arranging}
                    away={() => void choose(ids.filter((id) => id !== n.id))}
                  />
                ))}
              </ul>
            </Sortable>
            {ids.length === 0 && <p className="empty">No number is chosen. Arrange the page and add some.</p>}
            <div className="form">
              <Button aria-pressed={arranging} onClick={() => setArranging(!arranging)}>
                {arranging ? 'It is arranged' : 'Arrange'}
              </Button>
              {arranging && (
                <>
                  <Button
                    aria-haspopup="menu"
                    disabled={t.others.length === 0}
                    onClick={(e) => setFrom(e.currentTarget)}
                  >
                    Add a number
                  </Button>
                  <Menu
                    anchorEl={from}
                    open={from !== null}
                    onClose={() => setFrom(null)}
                    slotProps={{ list: { 'aria-label': 'Numbers that could be added' } }}
                  >
                    {t.others.map((o) => (
                      <MenuItem
                        key={o.id}
                        onClick={() => {
                          setFrom(null)
                          void choose([...ids, o.id])
                        }}
                      >
                        <ListItemText>{o.title}</ListItemText>
                      </MenuItem>
                    ))}
                  </Menu>
                  {t.own && <Button onClick={() => void choose(null)}>As it was for {roleOf(me.role)}</Button>}
                </>
              )}
            </div>
            {t.floor ? (
              <section>
                <h2>{t.floor_name}</h2>
                <p className="quiet">
                  What was done there today, by the hour.{' '}
                  <Link className="link" to="/floor">
                    Open the floor
                  </Link>
                </p>
                <Suspense fallback={<Skeleton />}>
                  <HoursChart world={t.floor} />
                </Suspense>
              </section>
            ) : (
              <p className="empty">
                This site has no live floor yet. Rehearse the draft, then begin the floor on{' '}
                <Link className="link" to="/site">
                  Site
                </Link>
                .
              </p>
            )}
          </>
        )}
      </main>
    </div>
  )
}

const roleOf = (role: string) => (role === 'analyst' ? 'an analyst' : `a ${role}`)

/** A page that looks at a world is led to the floor that was counted on. */
function onFloor(link: string, floor: string) {
  if (!floor || !/^\/(documents|host|stock)/.test(link)) return link
  return `${link}${link.includes('?') ? '&' : '?'}world=${floor}`
}

type Placed = { n: Numbered; at: number; floor: string; arranging: boolean; away: () => void }

function Tile({ n, at, floor, arranging, away }: Placed) {
  const { setNodeRef, setActivatorNodeRef, attributes, listeners, transform, transition, isDragging } = useSortable({
    id: n.id,
    disabled: !arranging,
  })
  const f = n.figure
  return (
    <li ref={setNodeRef} className="tile" style={moveStyle(transform, transition, isDragging)}>
      <Link to={f ? onFloor(f.link, floor) : '/site'}>
        <span className="title">{n.title}</span>
        <b>{f ? f.value.toLocaleString() : '–'}</b>
        <span className="says">
          {f ? (
            <>
              <span className={`mark ${MARK[f.mark]}`}>{SIGN[f.mark]}</span> <Told text={f.says} />
            </>
          ) : (
            'There is no live floor to count on.'
          )}
        </span>
      </Link>
      {arranging && (
        <span className="acts-row">
          <button
            type="button"
            className="link hold"
            ref={setActivatorNodeRef}
            {...attributes}
            {...listeners}
            aria-label={`Move number ${at + 1}, ${n.title}`}
          >
            Move
          </button>
          <button className="link" onClick={away} aria-label={`Take ${n.title} away`}>
            Take away
          </button>
        </span>
      )}
    </li>
  )
}
