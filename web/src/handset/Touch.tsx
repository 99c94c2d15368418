import { ago } from '../shared/live'

/** Whether what this screen shows is what is so: in touch, something on its way, a scan that waits, or how old it is. */
export function Touch({ waits, sends, old }: { waits: boolean; sends: boolean; old: number | null }) {
  return (
    <span>
      {waits ? '1 scan waiting' : sends ? 'sending' : old === null ? 'in touch' : `out of touch: ${ago(old)} old`}
    </span>
  )
}
