import Button from '@mui/material/Button'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useContext, useState } from 'react'
import { Link } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { chooseDraft, DRAFT, Say, useDraft, useGroundHead } from '../parts/data'
import { day, when } from '../../shared/when'
import { Notes } from '../parts/Notes'
import { Skeleton } from '../parts/Skeleton'
import { ForAllSites } from './ForAllSites'
import { Signed } from './Signed'
import { BringRules, Naming } from './Naming'

type Head = Shape['DraftHead']
type Force = Shape['ForceView']

/** The drafts of one's sites, and what would change if the one in hand were put in force. */
export default function DraftsPage({ me }: { me: Shape['Me'] }) {
  const queries = useQueryClient()
  const say = useContext(Say)
  const drafts = useQuery({ queryKey: ['drafts'], queryFn: () => got(client.GET('/api/drafts')) })
  const [asked, setAsked] = useState<{ draft: Head; what: 'copy' | 'rename' } | null>(null)
  const [file, setFile] = useState<Head | null>(null)
  const mayEdit = me.rights.includes('edit_rulebook')
  const again = () => {
    void queries.invalidateQueries({ queryKey: ['drafts'] })
    void queries.invalidateQueries({ queryKey: ['draft'] })
  }
  const close = useMutation({
    mutationFn: async (id: string) => {
      await got(client.DELETE('/api/drafts/{id}', { params: { path: { id } } }))
      return id
    },
    onSuccess: (id) => (id === DRAFT ? location.assign('/drafts') : again()),
    onError: (e) => say(e.message),
  })
  return (
    <div className="page wide">
      <main className="main">
        <h1>Drafts</h1>
        <p className="lead">
          Rules are changed in drafts, several at once if need be, and put in force when the rehearsals pass.
        </p>
        {drafts.error && <p className="empty">{drafts.error.message}</p>}
        {!drafts.data ? (
          !drafts.error && <Skeleton />
        ) : (
          <table className="plain">
            <thead>
              <tr>
                <th>Site</th>
                <th>Draft</th>
                <th>Last change</th>
                <th>In force</th>
                <th>
                  <span className="sr">What can be done</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {drafts.data.drafts.map((d) => (
                <tr key={d.id}>
                  <td>{d.site}</td>
                  <td>
                    <b>{d.name}</b> {d.id === DRAFT && <span className="quiet">in hand</span>}
                  </td>
                  <td className="quiet">
                    <Told text={d.says} />
                  </td>
                  <td style={{ whiteSpace: 'nowrap' }}>
                    {d.differs_from_force ? (
                      <span className="quiet">○ not as it is</span>
                    ) : (
                      <span className="mark holds">● as it is now</span>
                    )}
                  </td>
                  <td>
                    <span className="acts-row" style={{ margin: 0 }}>
                      {d.id !== DRAFT && (
                        <button
                          className="link"
                          onClick={() => {
                            chooseDraft(d.id)
                            location.assign('/drafts')
                          }}
                        >
                          Work on it
                        </button>
                      )}
                      {mayEdit && (
                        <>
                          <button className="link" onClick={() => setAsked({ draft: d, what: 'copy' })}>
                            Copy
                          </button>
                          <button className="link" onClick={() => setAsked({ draft: d, what: 'rename' })}>
                            Rename
                          </button>
                          <button className="link" onClick={() => setFile(d)}>
                            Bring a file in
                          </button>
                          <button className="link" onClick={() => close.mutate(d.id)}>
                            Close
                          </button>
                        </>
                      )}
                      <a className="link" href={`/api/drafts/${d.id}/file`} download>
                        Save as a file
                      </a>
                    </span>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        <InForce me={me} />
        <Signed />
        <ForAllSites mayEdit={mayEdit} />
      </main>
      {asked && <Naming {...asked} close={() => setAsked(null)} again={again} />}
      {file && <BringRules draft={file} close={() => setFile(null)} again={again} />}
    </div>
  )
}

const WORD: Record<Force['changes'][number]['what'], string> = {
  new: '+ new',
  gone: '– gone',
  changed: '≠ other',
  moved: '↕ moved',
}

/** What would change, in sentences, what stops it, and how far the live floor has taken what is in force. */
function InForce({ me }: { me: Shape['Me'] }) {
  const draft = useDraft()
  const queries = useQueryClient()
  const say = useContext(Say)
  const force = useQuery({
    queryKey: ['bench', 'in force', DRAFT, draft.data?.rulebook],
    enabled: !!draft.data,
    placeholderData: (before) => before,
    queryFn: () => got(client.GET('/api/drafts/{id}/in-force', { params: { path: { id: DRAFT } } })),
  })
  const site = draft.data?.site
  const live = useGroundHead().data?.sites.find((s) => s.code === site)?.live ?? ''
  const now = useQuery({
    queryKey: ['world', live, 'hands', DRAFT, draft.data?.rulebook], // told anew with every entry of the floor
    enabled: !!live,
    placeholderData: (before) => before,
    queryFn: () => got(client.GET('/api/drafts/{id}/floor', { params: { path: { id: DRAFT } } })),
  })
  const put = useMutation({
    mutationFn: (version: number) =>
      got(client.POST('/api/drafts/{id}/in-force', { params: { path: { id: DRAFT } }, body: { version } })),
    onSuccess: (done) => {
      say(done.floor || `Revision ${done.revision} is in force.`, [], true)
      for (const key of ['bench', 'draft', 'drafts', 'rehearsals', 'world'])
        void queries.invalidateQueries({ queryKey: [key] })
    },
    onError: (e) => say(e.message),
  })
  const f = force.data
  const floor = now.data?.floor
  if (!f || !draft.data) return <Skeleton />
  const may = me.rights.includes('put_in_force')
  return (
    <section>
      <h2>{f.changes.length ? `Putting ${draft.data.name} in force` : 'In force'}</h2>
      <p className="quiet">
        <Told
          text={
            f.revision === null
              ? 'Nothing is in force at this site yet.'
              : `Revision ${f.revision}, ${f.revision_name}, is in force` +
                (f.made_at ? `, put by @${f.made_by} on ${day(f.made_at)}.` : '.')
          }
        />
      </p>
      {may && (f.changes.length > 0 || f.revision === null || (floor && !floor.goes_by_it)) && (
        <Button
          variant="contained"
          style={{ marginBottom: 14 }}
          disabled={put.isPending || f.stops.length > 0}
          onClick={() => put.mutate(f.version)}
        >
          Put it in force{floor ? ', also on the live floor' : ''}
        </Button>
      )}
      {f.stops.length > 0 && (
        <div className="follows" style={{ marginBottom: 12 }}>
          <Notes notes={f.stops} />
          <Link className="link" to="/findings">
            All findings
          </Link>
        </div>
      )}
      {f.changes.length > 0 && (now.data?.stays.length ?? 0) > 0 && (
        <div className="follows" style={{ marginBottom: 12 }} aria-label="What stays as it is on the floor">
          {now.data?.stays.map((line) => (
            <span key={line} className="finding">
              ▲ <Told text={line} />
            </span>
          ))}
        </div>
      )}
      {f.changes.length === 0 && f.revision !== null && (
        <p className="quiet">{draft.data.name} says the same as what is in force.</p>
      )}
      {f.changes.length > 0 && (
        <ul className="found changes" aria-label="What would change">
          {f.changes.map((c) => (
            <li key={c.what + c.link + c.after}>
              <span className="quiet">{WORD[c.what]}</span>
              <span>
                {c.before && c.what !== 'moved' && <del>{c.before}</del>}
                {c.what === 'moved' && <span className="quiet">{c.before}, now </span>}
                {c.after && <span>{c.after}</span>}
              </span>
              <Link className="link" to={`/${c.link}`}>
                {c.at}
              </Link>
            </li>
          ))}
        </ul>
      )}
      {floor && (
        <p>
          {floor.goes_by_it ? (
            <span className="mark holds">● {floor.name} goes by what is in force.</span>
          ) : (
            <span className="mark doubt">▲ {floor.name} still goes by other rules.</span>
          )}{' '}
          <span className="quiet">Handsets take new menus and flows {floor.takes}.</span>{' '}
          {floor.hands.length === 0
            ? 'No handset has worked here yet.'
            : floor.hands.map((h) => (
                <span key={h.device} className="hand-now">
                  <span className="code">{h.device}</span> {h.flow || 'at its menu'}:{' '}
                  {h.has_taken ? 'has taken it' : <span className="mark doubt">▲ has not</span>}
                  {h.at && <span className="quiet"> (given {when(h.at)})</span>}
                </span>
              ))}
        </p>
      )}
    </section>
  )
}
