import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useContext } from 'react'
import { Link } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Say } from '../parts/data'

/** The floors of other sites that are played the same day: what one sends, the other hears of. Another may be put beside. */
export function SameDay({ world: w }: { world: Shape['WorldView'] }) {
  const queries = useQueryClient()
  const say = useContext(Say)
  const put = useMutation({
    mutationFn: (site: string) =>
      got(client.POST('/api/worlds/{id}/beside/{site}', { params: { path: { id: w.id, site } } })),
    onSuccess: (now) => queries.setQueryData(['world', w.id], now),
    onError: (e) => say(e.message),
  })
  if (!w.beside.length && !w.may_join.length) return null
  return (
    <section aria-label="The same day at other sites" className="form quiet" style={{ marginTop: 0 }}>
      <span>{w.beside.length ? 'The same day at' : 'No other site is played.'}</span>
      {w.beside.map((b) => (
        <Link key={b.id} className="link" to={`/desk/${b.id}`}>
          {b.name} <small>({b.seq})</small>
        </Link>
      ))}
      {w.may_join.map((s) => (
        <button key={s.site} className="link" disabled={put.isPending} onClick={() => put.mutate(s.site)}>
          + {s.name}
        </button>
      ))}
    </section>
  )
}
