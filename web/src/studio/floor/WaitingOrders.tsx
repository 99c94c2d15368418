import Button from '@mui/material/Button'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useContext, useState } from 'react'
import { Link } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { when } from '../../shared/when'
import { Pick } from '../parts/controls'
import { Say } from '../parts/data'

/** Orders that a host told without a site, and that no channel gives one: each waits until somebody says where it goes. */
export function WaitingOrders() {
  const say = useContext(Say)
  const queries = useQueryClient()
  const [to, setTo] = useState<Record<string, string>>({})
  const waiting = useQuery({
    queryKey: ['waiting-orders'],
    queryFn: () => got(client.GET('/api/waiting-orders')),
    refetchInterval: 30_000,
  })
  const place = useMutation({
    mutationFn: ({ message, site }: { message: string; site: string }) =>
      got(client.POST('/api/waiting-orders/{message}', { params: { path: { message } }, body: { site } })),
    onSuccess: (told) => (
      say(told.says),
      void queries.invalidateQueries({ queryKey: ['waiting-orders'] }),
      void queries.invalidateQueries({ queryKey: ['world'] })
    ),
    onError: (error: Error) => say(error.message),
  })
  const w = waiting.data
  if (!w || w.orders.length === 0) return null
  const site = (o: Shape['Waiting']) => to[o.message] ?? (w.sites.includes(o.serving) ? o.serving : (w.sites[0] ?? ''))
  return (
    <section aria-label="Orders without a site">
      <h2>Without a site</h2>
      <p className="quiet">
        The host named no site for these, and their channels are served by none. Which site serves a channel is said in
        the catalogue, under <Link to="/catalogue/channels">Channels</Link>.
      </p>
      <table className="plain">
        <thead>
          <tr>
            <th>order</th>
            <th>channel</th>
            <th>lines</th>
            <th>waits since</th>
            <th>goes to</th>
          </tr>
        </thead>
        <tbody>
          {w.orders.map((o) => (
            <tr key={o.message}>
              <td>
                <span className="code">{o.order.number}</span>{' '}
                <span className="quiet">
                  {o.order.kind}, {o.order.partner}
                </span>
              </td>
              <td>{o.order.channel || <span className="quiet">none named</span>}</td>
              <td>{o.order.lines.length}</td>
              <td className="quiet">{when(o.told_at)}</td>
              <td>
                {w.sites.length === 0 ? (
                  <span className="quiet">whoever tells orders says where</span>
                ) : (
                  <span className="form" style={{ margin: 0 }}>
                    <Pick
                      aria-label={`Site of ${o.order.number}`}
                      value={site(o)}
                      onChange={(e) => setTo({ ...to, [o.message]: e.target.value })}
                    >
                      {w.sites.map((s) => (
                        <option key={s}>{s}</option>
                      ))}
                    </Pick>
                    <Button onClick={() => place.mutate({ message: o.message, site: site(o) })}>Give it</Button>
                  </span>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}
