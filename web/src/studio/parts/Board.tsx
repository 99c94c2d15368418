import type { ReactNode } from 'react'
import { Skeleton } from './Skeleton'
import { NoFloor, WorldPicker, type useWorld } from './WorldPicker'

/** A board of a floor: what there is on the left, and on the right what was chosen of it; where there is nothing to choose, the left has all the room. */
export function Board({
  title,
  lead,
  chosen,
  view,
  says,
  beside,
  inside,
  children,
}: {
  title: string
  lead: ReactNode
  chosen: ReturnType<typeof useWorld>
  /** What was asked of the floor; the children stand once it is there. */
  view: { data: unknown; error: Error | null }
  /** What became of the last act. */
  says: ReactNode
  beside: string
  inside: ReactNode
  children: ReactNode
}) {
  return (
    <div className={inside ? 'page halves' : 'page wide'}>
      <main className="main">
        <h1>{title}</h1>
        <p className="lead">{lead}</p>
        {chosen.worlds.length > 0 ? (
          <div className="form">
            <WorldPicker {...chosen} />
          </div>
        ) : (
          <NoFloor />
        )}
        {view.error && <p className="empty">{view.error.message}</p>}
        {says}
        {view.data ? children : chosen.world && !view.error && <Skeleton />}
      </main>
      {inside && (
        <aside className="bench" aria-label={beside}>
          {inside}
        </aside>
      )}
    </div>
  )
}
