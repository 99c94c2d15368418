import type { Shape } from '../../shared/client'

/** What label rules print, rule by rule, with the first labels as they come out; and why the others print nothing. */
export function LabelsOut({ prints, nothing }: { prints: Shape['PreviewPrint'][]; nothing: string[] }) {
  return (
    <>
      {prints.map((p, n) => (
        <section key={n} aria-label={`Rule ${p.number} prints`}>
          <p style={{ marginBottom: 6 }}>
            <b>Rule {p.number}</b>, when {p.when}: {what(p)}{' '}
            {p.printer ? (
              <>
                on <span className="code">{p.printer}</span>
              </>
            ) : p.why.startsWith('the ') ? (
              <>on {p.why}</>
            ) : (
              <>waits: {p.why}</>
            )}
          </p>
          {p.labels.length > 0 && (
            <div className="labels">
              {p.labels.map((l, m) => (
                <img key={m} alt={`label ${m + 1}`} src={`data:image/svg+xml,${encodeURIComponent(l.svg)}`} />
              ))}
            </div>
          )}
        </section>
      ))}
      {nothing.map((says) => (
        <p key={says} className="quiet" style={{ margin: '4px 0' }}>
          {says}
        </p>
      ))}
    </>
  )
}

/** What comes out: papers by their names, labels by how many. */
function what({ papers, count }: Shape['PreviewPrint']): string {
  const times = count > papers.length ? `, ${count / papers.length} times` : ''
  if (papers.length) return `${papers.join(', ').toLowerCase()}${times}`
  return count === 1 ? '1 label' : `${count} labels`
}
