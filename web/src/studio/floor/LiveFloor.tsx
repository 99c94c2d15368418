import { Link, Navigate } from 'react-router'
import { useDraft, useGroundHead } from '../parts/data'
import { Skeleton } from '../parts/Skeleton'

/** The desk of the live floor of the site in hand; when it has none, how it gets one. */
export default function LiveFloor() {
  const draft = useDraft()
  const ground = useGroundHead()
  const site = ground.data?.sites.find((s) => s.code === draft.data?.site)
  if (site?.live) return <Navigate to={`/desk/${site.live}`} replace />
  return (
    <div className="page wide">
      <main className="main">
        <h1>Live floor</h1>
        {!ground.data || !draft.data ? (
          <Skeleton />
        ) : (
          <p className="empty">
            {site?.name ?? 'This site'} has no live floor yet. Rehearse the draft, then begin the floor on{' '}
            <Link className="link" to="/site">
              Site
            </Link>
            .
          </p>
        )}
      </main>
    </div>
  )
}
