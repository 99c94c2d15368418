import Button from '@mui/material/Button'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useContext, useEffect, useRef } from 'react'
import { useLocation } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { day } from '../../shared/when'
import { Say } from '../parts/data'
import { Notes } from '../parts/Notes'

/** What holds for all sites: its newest version, what is in it, and which draft stands on which version. */
export function ForAllSites({ mayEdit }: { mayEdit: boolean }) {
  const queries = useQueryClient()
  const say = useContext(Say)
  const meant = useLocation().hash === '#all-sites'
  const here = useRef<HTMLElement>(null)
  const general = useQuery({ queryKey: ['general'], queryFn: () => got(client.GET('/api/general')) })
  const drafts = useQuery({ queryKey: ['drafts'], queryFn: () => got(client.GET('/api/drafts')) })
  const along = useMutation({
    mutationFn: (id: string) => {
      const version = drafts.data?.drafts.find((d) => d.id === id)?.version ?? 0
      return got(client.POST('/api/drafts/{id}/along', { params: { path: { id } }, body: { version } }))
    },
    onSuccess: () => {
      for (const key of ['general', 'draft', 'drafts', 'bench']) void queries.invalidateQueries({ queryKey: [key] })
    },
    onError: (e) => say(e.message),
  })
  const there = general.data !== undefined
  useEffect(() => {
    if (meant && there) here.current?.scrollIntoView({ block: 'start' })
  }, [meant, there])
  const g = general.data
  if (!g) return null
  const behind = g.drafts.filter((d) => d.general !== g.no)
  const inForce = Object.entries(g.in_force)
  return (
    <section ref={here} id="all-sites">
      <h2>For all sites</h2>
      {g.no === 0 ? (
        <p className="quiet">
          Nothing is shared yet. A setting is shared in the column “all sites” of Settings; a plan, a list, a flow or a
          crew by <i>Give to all sites</i> under it.
        </p>
      ) : (
        <>
          <p className="quiet">
            <Told
              text={`Version ${g.no}: ${g.says} By @${g.made_by}${g.made_at ? ` on ${day(g.made_at)}` : ''}. ${standing(g)}`}
            />
          </p>
          {g.parts.length > 0 ? (
            <ul className="found" aria-label="What holds for all sites">
              {g.parts.map((part) => (
                <li key={part} style={{ display: 'list-item', listStyle: 'disc inside' }}>
                  {part}
                </li>
              ))}
            </ul>
          ) : (
            <p className="quiet">There is nothing in it now.</p>
          )}
          {inForce.length > 0 && (
            <p className="quiet">
              In force: {inForce.map(([site, no]) => `${site} ${no ? `with version ${no}` : 'without it'}`).join(', ')}.
            </p>
          )}
          {behind.map((d) => (
            <div key={d.id} className="follows" style={{ margin: '10px 0' }}>
              <p className="mark doubt" style={{ margin: 0 }}>
                ▲ {d.site}, {d.name}: stays on version {d.general}, since it would not find what it names.
              </p>
              <Notes notes={d.lacks} />
              {mayEdit && (
                <div>
                  <Button onClick={() => along.mutate(d.id)} disabled={along.isPending}>
                    Bring it along all the same
                  </Button>
                </div>
              )}
            </div>
          ))}
          {!g.may_edit && (
            <p className="quiet">
              You see some of the sites only, so you change nothing of this; copy what you need for your site.
            </p>
          )}
        </>
      )}
    </section>
  )
}

function standing(g: Shape['GeneralView']): string {
  const on = g.drafts.filter((d) => d.general === g.no).map((d) => `${d.site} ${d.name}`)
  return on.length === g.drafts.length ? 'All drafts stand on it.' : `On it stand: ${on.join(', ')}.`
}
