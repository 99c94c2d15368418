import { useState } from 'react'
import type { Shape } from '../shared/client'
import { Told } from '../shared/Told'

type Pick = Shape['Pick']
/** What a person wants to see of a list: one kind, and days up to one. Kept on the handset until it is changed. */
type Filter = { kind: string; until: string }
const ALL: Filter = { kind: '', until: '' }

function kept(place: string): Filter {
  try {
    return { ...ALL, ...(JSON.parse(localStorage.getItem(place) ?? '{}') as Partial<Filter>) }
  } catch {
    return ALL
  }
}

/** What may be tapped; of a list with kinds and days those that are wanted, and what is left out is said. */
export function Picks({ picks, place, tap }: { picks: Pick[]; place: string; tap: (value: string) => void }) {
  const [filter, setFilter] = useState(() => kept(place))
  const kinds = [...new Set(picks.map((p) => p.kind).filter(Boolean))]
  const days = [...new Set(picks.map((p) => p.day).filter(Boolean))].sort()
  const filtered = kinds.length > 1 || days.length > 1 || !!filter.kind || !!filter.until
  const shown = filtered
    ? picks.filter(
        (p) => (!filter.kind || p.kind === filter.kind) && (!filter.until || !p.day || p.day <= filter.until),
      )
    : picks
  const change = (some: Partial<Filter>) => {
    const now = { ...filter, ...some }
    setFilter(now)
    localStorage.setItem(place, JSON.stringify(now))
  }
  const offered = (now: string, all: string[]) => (now && !all.includes(now) ? [...all, now].sort() : all)
  return (
    <div className="hs-picks">
      {filtered && (
        <div className="hs-filter">
          {(kinds.length > 1 || filter.kind) && (
            <select aria-label="Kind" value={filter.kind} onChange={(e) => change({ kind: e.target.value })}>
              <option value="">all kinds</option>
              {offered(filter.kind, kinds).map((kind) => (
                <option key={kind} value={kind}>
                  {kind}
                </option>
              ))}
            </select>
          )}
          {(days.length > 1 || filter.until) && (
            <select aria-label="Day" value={filter.until} onChange={(e) => change({ until: e.target.value })}>
              <option value="">all days</option>
              {offered(filter.until, days).map((day) => (
                <option key={day} value={day}>
                  until {day}
                </option>
              ))}
            </select>
          )}
          <span role="status">
            {shown.length < picks.length ? `${shown.length} of ${picks.length} shown` : `${picks.length} in the list`}
          </span>
          {(filter.kind || filter.until) && (
            <button className="hs-link" onClick={() => change(ALL)}>
              show all
            </button>
          )}
        </div>
      )}
      {shown.map((pick) => (
        <button key={pick.value} className="hs-pick" onClick={() => tap(pick.value)}>
          <b>{pick.label}</b>
          <span>
            <Told text={pick.note} />
          </span>
        </button>
      ))}
    </div>
  )
}
