import Tooltip from '@mui/material/Tooltip'
import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useContext, useEffect, useRef, useState } from 'react'
import { Link, useNavigate, useParams, useSearchParams } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { when } from '../../shared/when'
import { Skeleton } from '../parts/Skeleton'
import { Tray } from '../floor/Tray'
import { Changed } from './Changed'
import { DRAFT, Say } from '../parts/data'
import { HandPanel } from '../parts/HandPanel'
import { Guests } from './Guests'
import { SameDay } from './SameDay'
import { LogRow } from './LogRow'
import { Office } from './Office'
import { mayDo, useOffice } from '../parts/WorldPicker'
import { Sheet } from '../parts/Sheet'
import { Pick } from '../parts/controls'

type Expectation = Shape['PinBody']['expectation']

/** The rehearsal desk: handset and scan tray, the log as it grows, and what changed. */
export default function Desk({ me }: { me: Shape['Me'] }) {
  const { id = '' } = useParams()
  return <DeskOf key={id} id={id} me={me} />
}

const AT_ONCE = 5 // windows of the log that are fetched in one go

function DeskOf({ id, me }: { id: string; me: Shape['Me'] }) {
  const queries = useQueryClient()
  const go = useNavigate()
  const say = useContext(Say)
  const [device, setDevice] = useState('H1')
  const [person, setPerson] = useState(me.crews.length ? me.id : 'oren')
  const asked = Number(useSearchParams()[0].get('entry')) || null // a link to one entry of the log
  const [open, setOpen] = useState<number | null>(asked)
  const [saving, setSaving] = useState(false)
  const end = useRef<HTMLLIElement>(null)
  const people = useQuery({ queryKey: ['people'], queryFn: () => got(client.GET('/api/people')) })
  const world = useQuery({
    queryKey: ['world', id],
    queryFn: () => got(client.GET('/api/worlds/{id}', { params: { path: { id } } })),
  })
  // Entries never change, so only those after the last known one are fetched, some windows at a time; at first the latest
  // window, or the one around the entry that was asked for.
  const log = useQuery({
    queryKey: ['world', id, 'log'],
    queryFn: async () => {
      const known = () => queries.getQueryData<Shape['EntryView'][]>(['world', id, 'log']) ?? []
      const fresh: Shape['EntryView'][] = []
      for (let windows = 0; windows < AT_ONCE; windows++) {
        const after = (fresh.at(-1) ?? known().at(-1))?.seq
        const from =
          after !== undefined
            ? { after, last: false }
            : asked
              ? { after: Math.max(0, asked - 20), last: false }
              : { after: 0, last: true }
        const more = await got(client.GET('/api/worlds/{id}/log', { params: { path: { id }, query: from } }))
        fresh.push(...more.entries)
        if (!more.entries.length || (fresh.at(-1)?.seq ?? 0) >= more.seq) break
      }
      return [...known(), ...fresh] // what came before may have been fetched meanwhile
    },
  })
  const earlier = useMutation({
    mutationFn: (before: number) =>
      got(
        client.GET('/api/worlds/{id}/log', {
          params: { path: { id }, query: { after: 0, until: before - 1, last: true } },
        }),
      ),
    onSuccess: (more) =>
      queries.setQueryData<Shape['EntryView'][]>(['world', id, 'log'], (known) => [...more.entries, ...(known ?? [])]),
    onError: (e) => say(e.message),
  })
  const entries = log.data ?? []
  const pinned = world.data?.pins.map((p) => p.id).join() ?? ''
  const checks = useQuery({
    queryKey: ['world', id, 'checks', world.data?.seq, pinned],
    enabled: pinned !== '',
    placeholderData: (before) => before,
    queryFn: () => got(client.GET('/api/worlds/{id}/checks', { params: { path: { id } } })),
  })
  const last = entries.at(-1)?.seq ?? 0
  useEffect(() => {
    ;((asked && document.getElementById(`entry-${asked}`)) || end.current)?.scrollIntoView({ block: 'nearest' })
  }, [last, asked])
  const refresh = () => void queries.invalidateQueries({ queryKey: ['world', id] })
  const office = useOffice(id)
  const branch = useMutation({
    mutationFn: (to: { seq: number; draft: string | null }) =>
      got(client.POST('/api/worlds/{id}/branch', { params: { path: { id } }, body: to })),
    onSuccess: (child) => void go(`/desk/${child.id}`),
    onError: (e) => say(e.message),
  })
  const pin = useMutation({
    mutationFn: (what: { seq: number | null; expectation: Expectation }) =>
      got(client.POST('/api/worlds/{id}/pins', { params: { path: { id } }, body: what })),
    onSuccess: (w) => queries.setQueryData(['world', id], w),
    onError: (e) => say(e.message),
  })
  const unpin = useMutation({
    mutationFn: (which: number) =>
      got(client.DELETE('/api/worlds/{id}/pins/{pin}', { params: { path: { id, pin: which } } })),
    onSuccess: (w) => queries.setQueryData(['world', id], w),
    onError: (e) => say(e.message),
  })
  if (world.error) return <main className="main empty">{world.error.message}</main>
  if (!world.data)
    return (
      <main className="main">
        <Skeleton />
      </main>
    )
  const w = world.data
  const live = w.kind === 'live'
  const may = (kind: string) => mayDo(me, w, kind)
  const mayAct = ['confirm_order', 'block_bin', 'finish_plate', 'book_receipt'].some(may)
  const mayScan = !live || (me.rights.includes('scan') && me.crews.length > 0)
  const whose = live ? me.id : person // nobody works on a live floor with the hands of others
  const hands = people.data?.people.filter((p) => p.crews.length) ?? []
  return (
    <main className="desk">
      <div>
        <div className="form" style={{ marginTop: 0 }}>
          {!live && (
            <Pick aria-label="Whose hands" value={person} onChange={(e) => setPerson(e.target.value)}>
              {hands.map((p) => (
                <option key={p.id} value={p.id}>
                  {p.name}
                </option>
              ))}
            </Pick>
          )}
          {mayScan && (
            <Pick aria-label="Handset" value={device} onChange={(e) => setDevice(e.target.value)}>
              <option value="H1">handset H1</option>
              <option value="H2">handset H2</option>
            </Pick>
          )}
        </div>
        {mayScan ? (
          <HandPanel
            key={`${device} ${whose}`}
            world={id}
            device={device}
            person={whose}
            seq={Math.max(w.seq, last)}
            onEntry={refresh}
            loses={!live}
          />
        ) : (
          <AtWork draft={DRAFT} floor={id} />
        )}
      </div>
      <div>
        <h2 style={{ marginTop: 0 }}>
          <span>
            {w.name} {live && <span className="mark holds">● live</span>}
          </span>
          <small className="quiet">clock {when(w.clock, w.time_zone, true)}</small>
        </h2>
        {w.behind_draft && (
          <div className="banner">
            <span>
              The draft has changed since this run began.
              {w.stays.map((line) => (
                <span key={line} className="finding" style={{ display: 'block' }}>
                  ▲ <Told text={line} />
                </span>
              ))}
            </span>
            <Button variant="contained" onClick={() => branch.mutate({ seq: w.seq, draft: DRAFT })}>
              Go on under the changed rules
            </Button>
          </div>
        )}
        <div className="form" style={{ margin: '0 0 8px' }}>
          {mayAct && <Office world={w} live={live} may={may} act={(a) => office.mutate(a)} />}
          {live && !mayAct && <span className="quiet">What the office does here, your role looks at.</span>}
          {!live && (
            <Button variant="contained" disabled={entries.length === 0} onClick={() => setSaving(true)}>
              Keep as rehearsal
            </Button>
          )}
          <Link className="link" to={`/release?world=${id}`}>
            Orders that go out
          </Link>
        </div>
        {!live && me.rights.includes('rehearse') && <SameDay world={w} />}
        {!live && me.rights.includes('rehearse') && <Guests world={w} people={hands.filter((p) => p.id !== me.id)} />}
        {entries.length > 0 && (
          <div className="line-scrub" role="toolbar" aria-label="The log as a line">
            {entries.map((e) => (
              <Bead key={e.seq} entry={e} go={() => setOpen(e.seq)} />
            ))}
          </div>
        )}
        {(entries[0]?.seq ?? 1) > 1 && (
          <div className="earlier">
            <button className="link" disabled={earlier.isPending} onClick={() => earlier.mutate(entries[0]?.seq ?? 1)}>
              Show entries before {entries[0]?.seq}
            </button>
          </div>
        )}
        <ol className="log" start={entries[0]?.seq}>
          {entries.map((e) => (
            <LogRow
              key={e.seq}
              entry={e}
              world={id}
              open={open === e.seq}
              toggle={() => setOpen(open === e.seq ? null : e.seq)}
              pin={live ? undefined : (expectation) => pin.mutate({ seq: e.seq, expectation })}
              rewind={live ? undefined : () => branch.mutate({ seq: e.seq, draft: null })}
            />
          ))}
          <li ref={end} style={{ border: 0 }} />
        </ol>
        {entries.length > 0 && last < w.seq && (
          <div className="earlier">
            <button className="link" disabled={log.isFetching} onClick={() => void log.refetch()}>
              Show entries after {last}
            </button>
          </div>
        )}
        {entries.length > 0 && (
          <p className="quiet">
            What was done with goods, for machines elsewhere:{' '}
            <a className="link" href={`/api/worlds/${id}/events?form=epcis`} download>
              EPCIS 2.0
            </a>
            ,{' '}
            <a className="link" href={`/api/worlds/${id}/events?form=csv`} download>
              CSV
            </a>
          </p>
        )}
        {entries.length === 0 && (
          <p className="empty">
            {live
              ? 'Nothing has happened on this floor yet.'
              : 'Nothing has happened yet. Let the host confirm an order, then open a flow on the handset.'}
          </p>
        )}
      </div>
      <div className="side">
        <Changed
          world={w}
          pin={live ? undefined : (expectation) => pin.mutate({ seq: null, expectation })}
          act={may('hold_task') ? (a) => office.mutate(a) : undefined}
        />
        <section aria-label="Printers">
          <Tray
            world={id}
            seq={w.seq}
            small
            act={may('print_label') ? (a) => office.mutate(a) : undefined}
            set={may('set_printer') ? (a) => office.mutate(a) : undefined}
            pin={live ? undefined : (expectation) => pin.mutate({ seq: null, expectation })}
          />
        </section>
        {!live && <Pins world={w} checks={checks.data?.checks ?? []} unpin={(p) => unpin.mutate(p)} />}
      </div>
      {saving && <Keep close={() => setSaving(false)} world={w} />}
    </main>
  )
}

/** The handsets of a live floor that are in the middle of something, for those who look. */
function AtWork({ draft, floor }: { draft: string; floor: string }) {
  const now = useQuery({
    queryKey: ['world', floor, 'hands', draft],
    queryFn: () => got(client.GET('/api/drafts/{id}/floor', { params: { path: { id: draft } } })),
  })
  const known = now.data?.floor?.world === floor // else the draft in hand is of another site
  const hands = known ? (now.data?.floor?.hands.filter((h) => h.flow) ?? []) : []
  return (
    <>
      <h2>Handsets at work</h2>
      {known && hands.length === 0 && <p className="quiet">No handset is in the middle of something.</p>}
      {now.data && !known && <p className="quiet">Work on a draft of this site to see who is at work.</p>}
      {hands.map((h) => (
        <p key={h.device}>
          <span className="code">{h.device}</span> <Told text={`@${h.person}`} />: {h.flow}
        </p>
      ))}
      <p className="quiet">Whoever works here does it with a handset of their own. To try something, begin a run.</p>
    </>
  )
}

/** What is expected of this run, and whether it holds. */
function Pins({
  world,
  checks,
  unpin,
}: {
  world: Shape['WorldView']
  checks: Shape['PinCheck'][]
  unpin: (pin: number) => void
}) {
  return (
    <>
      <h2>
        Expected here <small className="quiet">open an entry to pin it</small>
      </h2>
      {world.pins.length === 0 && (
        <p className="quiet">Pin a refusal, a chosen bin, or stock: then it is checked on every replay.</p>
      )}
      {world.pins.map((p) => (
        <div key={p.id} className="pin">
          <span>
            <Holds check={checks.find((c) => c.id === p.id)} />
            <span className="quiet">{p.seq ? `entry ${p.seq}: ` : 'at the end: '}</span>
            <Told text={p.says} />
            <Found check={checks.find((c) => c.id === p.id)} />
          </span>
          <button className="link quiet" onClick={() => unpin(p.id)}>
            Unpin
          </button>
        </div>
      ))}
    </>
  )
}

function Holds({ check }: { check: Shape['PinCheck'] | undefined }) {
  if (!check) return null
  return <span className={`mark ${check.holds ? 'holds' : 'fails'}`}>{check.holds ? '✓ holds ' : '✕ fails '}</span>
}

function Found({ check }: { check: Shape['PinCheck'] | undefined }) {
  if (!check || check.holds) return null
  return (
    <div className="quiet">
      found: <Told text={check.found} />
    </div>
  )
}

function Bead({ entry, go }: { entry: Shape['EntryView']; go: () => void }) {
  return (
    <>
      <Tooltip describeChild title={`${entry.seq}: ${entry.says.replace(/`/g, '')}`}>
        <button className={entry.done ? '' : 'refused'} aria-label={`Entry ${entry.seq}`} onClick={go} />
      </Tooltip>
      <i />
    </>
  )
}

function Keep({ close, world }: { close: () => void; world: Shape['WorldView'] }) {
  const go = useNavigate()
  const queries = useQueryClient()
  const of = world.of
  const [name, setName] = useState(of?.name ?? '')
  const [about, setAbout] = useState(of?.about ?? '')
  const keep = useMutation({
    mutationFn: (as: { id: string; version: number } | null) =>
      got(
        client.POST('/api/worlds/{id}/rehearsal', {
          params: { path: { id: world.id } },
          body: { name, about, id: as?.id ?? null, version: as?.version ?? null },
        }),
      ),
    onSuccess: (r) => {
      void queries.invalidateQueries({ queryKey: ['rehearsals'] })
      void go(`/rehearsals/${r.head.id}`)
    },
  })
  const behind = of !== null && of.version !== of.latest
  return (
    <Sheet open onClose={close} label="Keep as rehearsal" fullWidth maxWidth="sm">
      <form
        style={{ padding: 20, display: 'flex', flexDirection: 'column', gap: 14 }}
        onSubmit={(e) => {
          e.preventDefault()
          keep.mutate(null)
        }}
      >
        <h2 style={{ margin: 0 }}>Keep this run as a rehearsal</h2>
        <p className="quiet" style={{ margin: 0 }}>
          {world.seq} entries, the host’s answers among them, with {world.pins.length} expectations. Codes become
          references where that is possible, so that a changed rule shows where it matters.
        </p>
        <TextField autoFocus label="Name" value={name} onChange={(e) => setName(e.target.value)} />
        <TextField label="What it proves" multiline value={about} onChange={(e) => setAbout(e.target.value)} />
        {of && (
          <div className="banner" style={{ margin: 0 }}>
            <span>
              It was opened from “{of.name}”, version {of.version}, which has {of.steps} steps and {of.pins}{' '}
              expectations.{' '}
              {world.parent && (
                <b>This run went on from an earlier point, so what came after that point in it is left out. </b>
              )}
              {behind
                ? `It was changed meanwhile to version ${of.latest}: replacing that loses what was changed; look at it first.`
                : `Replaced, version ${of.latest} stays among its versions, with a way back.`}
            </span>
          </div>
        )}
        {keep.error && (
          <span className="mark fails" style={{ whiteSpace: 'normal' }}>
            ✕ {keep.error.message}
          </span>
        )}
        <div className="form" style={{ margin: 0 }}>
          {of && (
            <Button
              variant="contained"
              disabled={keep.isPending || name.trim().length < 2}
              onClick={() => keep.mutate({ id: of.id, version: of.latest })}
            >
              Replace “{of.name}”
            </Button>
          )}
          <Button type="submit" variant={of ? 'text' : 'contained'} disabled={name.trim().length < 2 || keep.isPending}>
            {of ? 'Keep as a new one' : 'Keep it'}
          </Button>
          <Button onClick={close}>Not now</Button>
        </div>
      </form>
    </Sheet>
  )
}
