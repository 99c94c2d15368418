import Button from '@mui/material/Button'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useContext, useState } from 'react'
import { Link } from 'react-router'
import { client, got, Trouble } from '../../shared/client'
import { Told } from '../../shared/Told'
import { chooseDraft, DRAFT, Say, useGroundChange } from '../parts/data'

import { Sheet } from '../parts/Sheet'
import { Head, count } from './Site'

/** What the site has and what to do next: the way from nothing to a site that works. */
export function About({
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
      void queries.invalidateQueries({ queryKey: ['me'] })
      return change.done(made.says)
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
    onSuccess: (made) => change.done(made.says),
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
          <p className="quiet" style={{ margin: '4px 0' }}>
            {d.parts.length === 0 && 'no rules yet'}
            {d.parts.map((part, n) => (
              <span key={part.says}>
                {n > 0 && ', '}
                {d.id === DRAFT ? (
                  <Link className="link" to={`/${part.chapter}`}>
                    {part.says}
                  </Link>
                ) : (
                  part.says
                )}
              </span>
            ))}
          </p>
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
