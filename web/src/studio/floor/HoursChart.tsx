import { BarChart } from '@mui/x-charts/BarChart'
import { useQuery } from '@tanstack/react-query'
import { client, got, type Shape } from '../../shared/client'
import { Skeleton } from '../parts/Skeleton'

const HUES: Record<string, string> = {
  lines: 'var(--dusk)',
  plates: 'var(--primary)',
  tasks: 'var(--ochre)',
  moves: 'var(--moss)',
  refused: 'var(--brick)',
}
const MINUTE = 60_000
const HOUR = 60 * MINUTE
const FEWEST = 10

type Hour = Shape['Hour']

/** The hours that are drawn: a single one is no bar as wide as the page, so quiet ones stand around those that were not. */
function around(hours: Hour[], time_zone: string): Hour[] {
  const first = hours[0]
  if (!first) return hours
  const hourOf = Number(new Date(first.at).toLocaleTimeString('en-GB', { hour: '2-digit', timeZone: time_zone }))
  const missing = Math.max(0, FEWEST - hours.length)
  const before = Math.min(hourOf, missing)
  const quiet = (from: string, n: number): Hour => ({
    at: new Date(Date.parse(from) + n * HOUR).toISOString(),
    did: {},
  })
  const last = hours.at(-1) ?? first
  return [
    ...Array.from({ length: before }, (_, n) => quiet(first.at, n - before)),
    ...hours,
    ...Array.from({ length: missing - before }, (_, n) => quiet(last.at, n + 1)),
  ]
}

/** What a floor did today, hour by hour; the same as a table for those who read rather than look. */
export default function HoursChart({ world }: { world: string }) {
  const hours = useQuery({
    queryKey: ['hours', world],
    refetchInterval: MINUTE,
    queryFn: () => got(client.GET('/api/worlds/{id}/hours', { params: { path: { id: world } } })),
  })
  const h = hours.data
  if (hours.error) return <p className="empty">{hours.error.message}</p>
  if (!h) return <Skeleton />
  if (h.hours.length === 0) return <p className="empty">Nothing has been done on this floor today.</p>
  const at = (iso: string) =>
    new Date(iso).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit', timeZone: h.time_zone })
  const drawn = around(h.hours, h.time_zone)
  const kinds = Object.entries(h.kinds).filter(([kind]) => h.hours.some((hour) => hour.did[kind]))
  return (
    <>
      <div aria-hidden="true">
        <BarChart
          height={230}
          xAxis={[{ scaleType: 'band', data: drawn.map((hour) => at(hour.at)), height: 28 }]}
          yAxis={[{ tickMinStep: 1, width: 44 }]}
          series={kinds.map(([kind, label]) => ({
            data: drawn.map((hour) => hour.did[kind] ?? 0),
            label,
            stack: kind === 'refused' ? 'refused' : 'done',
            color: HUES[kind],
          }))}
          skipAnimation
          disableKeyboardNavigation
        />
      </div>
      <table className="sr">
        <caption>What was done by the hour</caption>
        <thead>
          <tr>
            <th>Hour</th>
            {kinds.map(([kind, label]) => (
              <th key={kind}>{label}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {h.hours.map((hour) => (
            <tr key={hour.at}>
              <td>{at(hour.at)}</td>
              {kinds.map(([kind]) => (
                <td key={kind}>{hour.did[kind] ?? 0}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {!h.all && <p className="quiet">The day had more than can be drawn here; this is its latest part.</p>}
    </>
  )
}
