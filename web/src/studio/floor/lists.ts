import type { Shape } from '../../shared/client'
import type { Tell } from './InOffice'

export type View = Shape['WorkView']
export type Act = Shape['CommandBody']['act']

/** How long ago an entry of a floor was made, in the largest unit that says something. */
export function age(view: Pick<View, 'clock' | 'times'>, seq: number) {
  const at = view.times[String(seq)]
  if (!at) return ''
  const minutes = Math.max(0, Math.round((Date.parse(view.clock) - Date.parse(at)) / 60_000))
  if (minutes < 60) return `${minutes} min`
  if (minutes < 48 * 60) return `${Math.round(minutes / 60)} h`
  return `${Math.round(minutes / (24 * 60))} days`
}

/** ``tell`` does a step of the floor in the office, and says why not; undefined for who may not. */
export type Shown = { view: View; world: string; act?: (act: Act) => void; tell?: Tell; closes?: boolean }
