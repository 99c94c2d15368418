import Button from '@mui/material/Button'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useContext, useState } from 'react'
import { useForm, useWatch } from 'react-hook-form'
import { client, got, type Shape, Trouble } from '../../shared/client'
import { when } from '../../shared/when'
import { Skeleton } from '../parts/Skeleton'
import { Say } from '../parts/data'
import { Sheet } from '../parts/Sheet'
import { Entry, Pick, Tick } from '../parts/controls'
import { TabRow } from '../parts/TabRow'

type Card = Shape['Card']
type Body = Shape['PersonBody']

/** Who there is, what each may do and where; badges, sessions, names that go. */
export default function People({ me }: { me: Shape['Me'] }) {
  const [open, setOpen] = useState<Card | 'new' | null>(null)
  const [tab, setTab] = useState<'people' | 'rights'>('people')
  const cards = useQuery({ queryKey: ['cards'], queryFn: () => got(client.GET('/api/people/cards')), retry: false })
  if (cards.error)
    return (
      <main className="main">
        <p className="empty">{cards.error.message}</p>
      </main>
    )
  const flowName = (id: string) => cards.data?.flows.find((f) => f.id === id)?.name ?? id
  const crewName = (id: string) => cards.data?.crews.find((c) => c.id === id)?.name ?? id
  return (
    <div className="page wide">
      <main className="main">
        <h1>People</h1>
        <p className="lead">
          What somebody may do follows from the role and from rights given besides, where from the sites, which flows
          and tasks from the crews. The logs hold ids; a name can be erased.
        </p>
        <TabRow
          label="People and rights"
          tabs={[
            ['people', 'Everybody', 0],
            ['rights', 'Who may what', 0],
          ]}
          value={tab}
          choose={(to) => setTab(to as typeof tab)}
        />
        {tab === 'rights' && cards.data && <Rights cards={cards.data} open={setOpen} />}
        {tab === 'people' && (
          <div className="form">
            <Button variant="contained" onClick={() => setOpen('new')}>
              Add somebody
            </Button>
          </div>
        )}
        {!cards.data ? (
          <Skeleton />
        ) : tab === 'rights' ? null : (
          <table className="plain">
            <thead>
              <tr>
                <th>Name</th>
                <th>signs in as</th>
                <th>role</th>
                <th>sites</th>
                <th>crews</th>
                <th>begins</th>
                <th>badge</th>
                <th>signed in</th>
              </tr>
            </thead>
            <tbody>
              {cards.data.people.map((p) => (
                <tr key={p.id}>
                  <td>
                    {p.erased_at ? (
                      <span className="quiet">erased {when(p.erased_at)}</span>
                    ) : (
                      <button className="link" onClick={() => setOpen(p)}>
                        {p.name}
                      </button>
                    )}
                    {!p.active && !p.erased_at && <span className="mark doubt"> ▲ let go</span>}
                    <div className="quiet">
                      <span className="code">{p.id}</span>
                    </div>
                  </td>
                  <td className="mono">{p.erased_at ? '' : p.login}</td>
                  <td>
                    {p.role}
                    {p.given.length > 0 && (
                      <div className="quiet">
                        and {p.given.length} {p.given.length === 1 ? 'right' : 'rights'} besides
                      </div>
                    )}
                  </td>
                  <td className="mono">{p.sites.join(', ')}</td>
                  <td>{p.crews.map(crewName).join(', ') || <span className="quiet">none</span>}</td>
                  <td>
                    {p.default_site ? (
                      <>
                        <span className="mono">{p.default_site}</span>
                        {p.default_flow && `, ${flowName(p.default_flow)}`}
                      </>
                    ) : (
                      p.role !== 'host' && <span className="quiet">asked each time</span>
                    )}
                    {p.notes.map((note) => (
                      <div key={note} className="mark doubt">
                        ▲ {note}
                      </div>
                    ))}
                  </td>
                  <td>{p.has_badge ? 'yes' : <span className="quiet">none</span>}</td>
                  <td className="quiet">
                    {p.sessions
                      ? `${p.sessions} ${p.sessions === 1 ? 'session' : 'sessions'}, last seen ${when(p.seen_at ?? '')}`
                      : 'not now'}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </main>
      {open && cards.data && (
        <Editing
          key={open === 'new' ? 'new' : open.id}
          card={open === 'new' ? null : open}
          cards={cards.data}
          me={me}
          close={() => setOpen(null)}
        />
      )}
    </div>
  )
}

/** Every right, the roles that bring it, and who has it besides. */
function Rights({ cards, open }: { cards: Shape['Cards']; open: (card: Card) => void }) {
  const besides = (right: Shape['Right']) =>
    cards.people.filter((p) => p.active && p.given.some((g) => g.right === right))
  return (
    <table className="plain" aria-label="Who may what">
      <thead>
        <tr>
          <th>may</th>
          {cards.roles.map((r) => (
            <th key={r.role} title={r.says}>
              {r.role}
            </th>
          ))}
          <th>given besides</th>
        </tr>
      </thead>
      <tbody>
        {cards.rights.map((r) => (
          <tr key={r.right}>
            <td>{r.says}</td>
            {cards.roles.map((role) => (
              <td key={role.role}>
                {role.rights.includes(r.right) ? (
                  <span className="mark holds">✓ yes</span>
                ) : (
                  <span className="quiet">no</span>
                )}
              </td>
            ))}
            <td>
              {!r.apart ? (
                <span className="quiet">with the role alone</span>
              ) : besides(r.right).length === 0 ? (
                <span className="quiet">to nobody</span>
              ) : (
                besides(r.right).map((p) => (
                  <div key={p.id}>
                    <button className="link" onClick={() => open(p)}>
                      {p.name}
                    </button>{' '}
                    <span className="mono">
                      {p.given
                        .filter((g) => g.right === r.right)
                        .map((g) => g.site)
                        .join(', ')}
                    </span>
                  </div>
                ))
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

function Editing({
  card,
  cards,
  me,
  close,
}: {
  card: Card | null
  cards: Shape['Cards']
  me: Shape['Me']
  close: () => void
}) {
  const queries = useQueryClient()
  const say = useContext(Say)
  const { register, control, handleSubmit, setValue } = useForm<Body>({
    defaultValues: card
      ? {
          name: card.name,
          role: card.role as Body['role'],
          sites: card.sites,
          crews: card.crews,
          login: card.login,
          active: card.active,
          password: '',
          default_site: card.default_site,
          default_flow: card.default_flow,
          given: card.given,
        }
      : {
          name: '',
          role: 'floor',
          sites: cards.sites,
          crews: [],
          login: '',
          active: true,
          password: '',
          default_site: '',
          default_flow: '',
          given: [],
        },
  })
  const [role, sites, crews, active, site, given] = useWatch({
    control,
    name: ['role', 'sites', 'crews', 'active', 'default_site', 'given'],
  })
  const brings = cards.roles.find((r) => r.role === role)
  const apart = cards.rights.filter((r) => r.apart)
  const atSite = (at: string) => {
    setValue('sites', toggle(sites, at))
    if (!sites.includes(at)) return // what stood at a site that is no longer hers goes with it
    if (site === at) setValue('default_site', '')
    setValue(
      'given',
      given.filter((g) => g.site !== at),
    )
  }
  const give = (at: string, right: Shape['Right']) =>
    setValue(
      'given',
      given.some((g) => g.site === at && g.right === right)
        ? given.filter((g) => g.site !== at || g.right !== right)
        : [...given, { site: at, right }],
    )
  const [wrong, setWrong] = useState('')
  const [made, setMade] = useState<Shape['NewBadge'] | null>(null)
  const badge = made?.badge ?? ''
  const [password, setPassword] = useState('')
  const [sure, setSure] = useState(false)
  const again = () =>
    void queries
      .invalidateQueries({ queryKey: ['cards'] })
      .then(() => queries.invalidateQueries({ queryKey: ['people'] }))
  const failed = (e: unknown) => setWrong(e instanceof Trouble ? e.message : String(e))
  const path = { params: { path: { id: card?.id ?? '' } } }
  const keep = useMutation({
    mutationFn: (body: Body) =>
      card ? got(client.PUT('/api/people/{id}', { ...path, body })) : got(client.POST('/api/people', { body })),
    onSuccess: () => (again(), close()),
    onError: failed,
  })
  const newBadge = useMutation({
    mutationFn: () => got(client.POST('/api/people/{id}/badge', path)),
    onSuccess: (made) => (setMade(made), again()),
    onError: failed,
  })
  const newPassword = useMutation({
    mutationFn: () => got(client.POST('/api/people/{id}/password', { ...path, body: { password } })),
    onSuccess: () => (
      setPassword(''),
      setWrong(''),
      say('The new password holds; sessions under the old one have ended.'),
      again()
    ),
    onError: failed,
  })
  const end = useMutation({
    mutationFn: () => got(client.DELETE('/api/people/{id}/sessions', path)),
    onSuccess: () => (say('All sessions have ended.'), again()),
    onError: failed,
  })
  const erase = useMutation({
    mutationFn: () => got(client.POST('/api/people/{id}/erase', path)),
    onSuccess: () => (again(), close()),
    onError: failed,
  })
  const toggle = (list: string[], value: string) =>
    list.includes(value) ? list.filter((x) => x !== value) : [...list, value]
  return (
    <Sheet open onClose={close} label={card ? card.name : 'Somebody new'} fullWidth maxWidth="sm">
      <form className="person" onSubmit={(e) => void handleSubmit((body) => keep.mutate(body))(e)}>
        <h2>{card ? card.name : 'Somebody new'}</h2>
        <label htmlFor="p-name">Name</label>
        <Entry
          id="p-name"

          {...register('name')}
          required
          maxLength={80}
        />
        <label htmlFor="p-login">Signs in as</label>
        <Entry
          id="p-login"

          style={{ fontFamily: 'var(--mono)' }}
          {...register('login')}
          required
          minLength={2}
          maxLength={40}
          autoCapitalize="none"
        />
        {!card && (
          <>
            <label htmlFor="p-password">Password</label>
            <Entry
              id="p-password"

              type="password"
              {...register('password')}
              autoComplete="new-password"
            />
          </>
        )}
        <label htmlFor="p-role">Role</label>
        <span>
          <Pick
            id="p-role"

            {...register('role')}
          >
            {cards.roles.map((r) => (
              <option key={r.role}>{r.role}</option>
            ))}
          </Pick>{' '}
          <span className="quiet">{brings?.says}</span>
        </span>
        <span>Sites</span>
        <span className="ticks">
          {cards.sites.map((s) => (
            <label key={s}>
              <Tick checked={sites.includes(s)} onChange={() => atSite(s)} /> {s}
            </label>
          ))}
        </span>
        <span>Crews</span>
        <span className="ticks">
          {cards.crews.map((c) => (
            <label key={c.id}>
              <Tick checked={crews.includes(c.id)} onChange={() => setValue('crews', toggle(crews, c.id))} /> {c.name}
            </label>
          ))}
        </span>
        {role !== 'host' && (
          <>
            <label htmlFor="p-site">Begins at</label>
            <span className="form" style={{ margin: 0 }}>
              <Pick id="p-site" {...register('default_site')}>
                <option value="">asked each time</option>
                {cards.sites
                  .filter((s) => sites.includes(s))
                  .map((s) => (
                    <option key={s}>{s}</option>
                  ))}
              </Pick>
              {site && (
                <Pick aria-label="Begins with" {...register('default_flow')}>
                  <option value="">the menu</option>
                  {cards.flows.map((f) => (
                    <option key={f.id} value={f.id}>
                      {f.name}
                    </option>
                  ))}
                </Pick>
              )}
            </span>
            <span>May besides</span>
            <table className="plain" aria-label="Rights besides those of the role">
              <thead>
                <tr>
                  <th>at</th>
                  {sites.map((s) => (
                    <th key={s} className="mono">
                      {s}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {apart.map((r) => (
                  <tr key={r.right}>
                    <td>{r.says}</td>
                    {sites.map((s) => (
                      <td key={s}>
                        <Tick
                          aria-label={`${r.says}, at ${s}`}
                          disabled={brings?.rights.includes(r.right)}
                          checked={
                            (brings?.rights.includes(r.right) ?? false) ||
                            given.some((g) => g.site === s && g.right === r.right)
                          }
                          onChange={() => give(s, r.right)}
                        />
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          </>
        )}
        {card && (
          <>
            <span>Works here</span>
            <label className="ticks">
              <Tick checked={active} onChange={() => setValue('active', !active)} /> unticked, all sessions end at once
            </label>
          </>
        )}
        {wrong && <p className="mark fails wide">✕ {wrong.replace(/`/g, '')}</p>}
        <span className="wide form">
          <Button type="submit" variant="contained">
            {card ? 'Keep' : 'Add'}
          </Button>
          <Button onClick={close}>Close</Button>
        </span>
      </form>
      {card && (
        <div className="person more">
          <span>Badge</span>
          <span className="form">
            <Button
              onClick={() => newBadge.mutate()}
            >{`Make ${card.has_badge || badge ? 'another' : 'a'} ${card.role === 'host' ? 'key' : 'badge'}`}</Button>
            {badge && (
              <span>
                {made?.svg && (
                  <span className="labels">
                    <img
                      alt={`Label of badge ${badge}`}
                      src={`data:image/svg+xml,${encodeURIComponent(made.svg)}`}
                      style={{ width: 240 }}
                      onLoad={(e) => e.currentTarget.scrollIntoView({ block: 'nearest' })}
                    />
                    <a
                      className="link"
                      href={`data:application/pdf;base64,${made.pdf}`}
                      download={`badge-${card.id}.pdf`}
                    >
                      Save it as PDF
                    </a>
                  </span>
                )}
                <span className="code" style={{ whiteSpace: 'normal', overflowWrap: 'anywhere' }}>
                  {badge}
                </span>{' '}
                <span className="quiet">
                  {card.role === 'host' ? 'copy it' : 'print it'} now: it is not shown again
                </span>
              </span>
            )}
          </span>
          <label htmlFor="p-new">Password</label>
          <span className="form">
            <Entry
              id="p-new"

              type="password"
              placeholder="a new one"
              value={password}
              onChange={(e) => setPassword(e.target.value)}
              autoComplete="new-password"
            />
            <Button onClick={() => newPassword.mutate()} disabled={!password}>
              Set it
            </Button>
            <Button onClick={() => end.mutate()}>End all sessions</Button>
          </span>
          {card.id !== me.id && (
            <>
              <span>Name</span>
              <span className="form">
                {sure ? (
                  <>
                    <Button color="error" onClick={() => erase.mutate()}>
                      Erase for good
                    </Button>
                    <Button onClick={() => setSure(false)}>No</Button>
                    <span className="quiet">logs keep the id {card.id}, which means nobody then</span>
                  </>
                ) : (
                  <Button onClick={() => setSure(true)}>Erase the name …</Button>
                )}
              </span>
            </>
          )}
        </div>
      )}
    </Sheet>
  )
}
