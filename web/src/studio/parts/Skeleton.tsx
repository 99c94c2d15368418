/** Shown where something is on its way. */
export function Skeleton() {
  return (
    <div role="status" aria-busy="true" aria-label="loading">
      {[70, 92, 60, 84, 50].map((w) => (
        <div key={w} className="skeleton" style={{ width: `${w}%` }} />
      ))}
    </div>
  )
}
