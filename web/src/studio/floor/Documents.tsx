import type { GridColDef } from '@mui/x-data-grid'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { when } from '../../shared/when'
import { Grid, useRows } from '../parts/Grid'
import { Skeleton } from '../parts/Skeleton'
import { useWorld, WorldPicker } from '../parts/WorldPicker'
import { Entry, Pick } from '../parts/controls'

type Doc = Shape['DocView']
const KINDS = ['order', 'shipment', 'wave', 'unloading', 'plate', 'receipt', 'task', 'message', 'count'] as const
const DEPTH = {
  order: 0,
  shipment: 1,
  wave: 1,
  unloading: 1,
  plate: 1,
  receipt: 2,
  task: 2,
  message: 2,
  count: 0,
} as const

/** Every document of a world, open and done; and for one, the chain it hangs in. */
export default function Documents() {
  const of = useWorld('newest')
  const at = useRows('documents')
  const world = of.world?.id ?? ''
  const [query, setQuery] = useSearchParams()
  const [find, setFind] = useState('')
  const [kind, setKind] = useState<'' | Doc['kind']>(KINDS.find((k) => k === query.get('kind')) ?? '')
  const [state, setState] = useState<'open' | 'done' | 'all'>('open')
  const doc = query.get('doc') ?? ''
  const open = (number: string) => setQuery({ world, doc: number })
  const list = useQuery({
    queryKey: ['world', world, 'documents', find, kind, state, at.page],
    enabled: !!world && at.ready,
    placeholderData: (before) => before,
    queryFn: () =>
      got(
        client.GET('/api/worlds/{id}/documents', {
          params: { path: { id: world }, query: { find, kind, state, start: at.query.start, most: at.query.most } },
        }),
      ),
  })
  const columns: GridColDef<Shape['DocHead']>[] = [
    {
      field: 'number',
      headerName: 'Number',
      width: 112,
      renderCell: ({ row, tabIndex }) => (
        <div>
          <button className="link mono" tabIndex={tabIndex} onClick={() => open(row.number)}>
            {row.number}
          </button>
          <div className="quiet">{row.kind}</div>
        </div>
      ),
    },
    {
      field: 'says',
      headerName: 'What',
      flex: 1,
      minWidth: 150,
      renderCell: ({ row }) => (
        <span className="two-lines" title={row.says.replaceAll('`', '')}>
          <Told text={row.says} />
        </span>
      ),
    },
    {
      field: 'word',
      headerName: 'State',
      width: 128,
      renderCell: ({ row }) => (
        <span>
          <span className={`mark ${row.open ? 'info' : 'holds'}`}>{row.open ? '◌' : '●'}</span> {row.word}
        </span>
      ),
    },
  ]
  const shown = doc || list.data?.docs[0]?.number || ''
  return (
    <div className="page halves">
      <main className="main">
        <h1>Documents</h1>
        <p className="lead">
          Everything the floor keeps papers about. Choose one, and its chain stands beside it, from the order to the
          bin.
        </p>
        <div className="form">
          <WorldPicker {...of} />
          <Entry
            style={{ width: 150 }}
            aria-label="Find"
            placeholder="number or words"
            value={find}
            onChange={(e) => (setFind(e.target.value), at.setPage(0))}
          />
          <Pick
            aria-label="Kind"
            value={kind}
            onChange={(e) => (setKind(e.target.value as typeof kind), at.setPage(0))}
          >
            <option value="">every kind</option>
            {KINDS.map((k) => (
              <option key={k} value={k}>
                {k}s
              </option>
            ))}
          </Pick>
          <Pick
            aria-label="State"
            value={state}
            onChange={(e) => (setState(e.target.value as typeof state), at.setPage(0))}
          >
            <option value="open">open</option>
            <option value="done">done</option>
            <option value="all">open and done</option>
          </Pick>
        </div>
        {list.error && <p className="empty">{list.error.message}</p>}
        {!list.data ? (
          world ? (
            <Skeleton />
          ) : (
            <p className="empty">No run has begun yet. Begin one on Host or on Rehearsals.</p>
          )
        ) : list.data.total === 0 ? (
          <p className="empty">No document here reads like that. Look among those that are done too.</p>
        ) : (
          <Grid
            name="documents"
            rows={list.data.docs}
            total={list.data.total}
            columns={columns}
            at={at}
            loading={list.isPlaceholderData}
            id={(d) => d.number}
            picked={shown}
            empty="No document here reads like that."
            fixed
            tall
          />
        )}
      </main>
      <aside className="bench" aria-label="Chain">
        {world && shown && <Chain world={world} number={shown} open={open} />}
      </aside>
    </div>
  )
}

/** The documents that hang together with one, in order, each with its states and who reached them. */
function Chain({ world, number, open }: { world: string; number: string; open: (n: string) => void }) {
  const [short, setShort] = useState(false)
  const chain = useQuery({
    queryKey: ['world', world, 'chain', number, short],
    placeholderData: (before) => before,
    queryFn: () =>
      got(client.GET('/api/worlds/{id}/chain', { params: { path: { id: world }, query: { number, short } } })),
  })
  if (chain.error) return <p className="empty">{chain.error.message}</p>
  if (!chain.data) return <Skeleton />
  return (
    <>
      <h2>
        <span>
          The chain of <span className="code">{number}</span>
        </span>
        <small>
          <button className="link quiet" onClick={() => setShort(!short)}>
            {short ? 'all of it' : 'in short'}
          </button>
        </small>
      </h2>
      <ol className="chain">
        {chain.data.docs.map((d) => (
          <li
            key={`${d.kind} ${d.number}`}
            className={d.number === number ? 'here' : ''}
            style={{ marginLeft: (short ? Math.min(DEPTH[d.kind], 1) : DEPTH[d.kind]) * 18 }}
          >
            <div>
              <span className="quiet">{d.kind}</span>{' '}
              <button className="link mono" onClick={() => open(d.number)}>
                {d.number}
              </button>{' '}
              <Told text={d.says} />
            </div>
            {d.number === number && chain.data.facts.length > 0 && (
              <dl className="facts" aria-label={`What is so of ${number}`}>
                {chain.data.facts.map((f) => (
                  <div key={f.word}>
                    <dt>{f.word}</dt>
                    <dd>
                      <Told text={f.says} />{' '}
                      {f.link && (
                        <Link className="link" to={`/${f.link}`} aria-label={`${f.word}: open the rule`}>
                          open
                        </Link>
                      )}
                    </dd>
                  </div>
                ))}
              </dl>
            )}
            <ul>
              {d.stages.map((s, n) => (
                <li key={n}>
                  <span className={`mark ${s.done ? 'holds' : 'info'}`}>{s.done ? '●' : '◌'}</span>{' '}
                  {s.done ? s.word : `not ${s.word} yet`}
                  {s.says && (
                    <>
                      , <Told text={s.says} />
                    </>
                  )}
                  {s.at && (
                    <span className="quiet">
                      {' '}
                      <Told text={`@${s.who}`} />
                      {s.device && ` on ${s.device}`}, {when(s.at, chain.data.time_zone, true)}{' '}
                      <Link
                        className="link"
                        to={`/desk/${world}?entry=${s.seq}`}
                        aria-label={`entry ${s.seq} of the log`}
                      >
                        #{s.seq}
                      </Link>
                    </span>
                  )}
                </li>
              ))}
            </ul>
            {d.number === number && d.kind === 'task' && d.open && (
              <Link className="link" to={`/work?world=${world}&list=tasks`}>
                Among all that is to do
              </Link>
            )}
            {(d.before.length > 0 || d.after.length > 0) && (
              <div className="quiet links">
                {d.before.length > 0 && (
                  <span>
                    from{' '}
                    {d.before.map((r) => (
                      <button key={r.number} className="link mono" onClick={() => open(r.number)}>
                        {r.number}
                      </button>
                    ))}
                  </span>
                )}
                {d.after.length > 0 && (
                  <span>
                    to{' '}
                    {d.after.map((r) => (
                      <button key={r.number} className="link mono" onClick={() => open(r.number)}>
                        {r.number}
                      </button>
                    ))}
                  </span>
                )}
              </div>
            )}
          </li>
        ))}
      </ol>
    </>
  )
}
