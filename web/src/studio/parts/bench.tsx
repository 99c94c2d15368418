import { Told } from '../../shared/Told'
import { Pick } from './controls'
import { useDraft, useWorlds } from './data'

/** Which floor a bench asks: the opening state, or one of the site's floors and runs as it is now. */
export function FloorAsked({ id, value, set }: { id: string; value: string; set: (world: string) => void }) {
  const draft = useDraft()
  const worlds = useWorlds()
  const floors = (worlds.data?.worlds ?? []).filter((w) => w.site === draft.data?.site)
  return (
    <>
      <label className="quiet" htmlFor={id}>
        As it is
      </label>
      <Pick id={id} value={value} onChange={(e) => set(e.target.value)}>
        <option value="">in the opening state</option>
        {floors.map((w) => (
          <option key={w.id} value={w.id}>
            on {w.name}
          </option>
        ))}
      </Pick>
    </>
  )
}

/** Why a bench has no answer. */
export function NoAnswer({ error }: { error: Error | null }) {
  if (!error) return null
  return (
    <p className="mark fails" style={{ whiteSpace: 'normal' }}>
      ✕ <Told text={error.message} />
    </p>
  )
}
