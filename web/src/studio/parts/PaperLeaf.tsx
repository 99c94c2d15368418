import type { Shape } from '../../shared/client'

/** A page as it comes out of the printer, small. */
export function PaperLeaf({ of }: { of: Shape['PaperPage'] }) {
  return (
    <article className="leaf" aria-label={`${of.title} ${of.code}`}>
      <h3>
        {of.title} <span className="code">{of.code}</span>
      </h3>
      {of.to.length > 0 && (
        <p>
          <b>{of.to[0]}</b>
          {of.to.slice(1).map((line) => (
            <span key={line}>
              <br />
              {line}
            </span>
          ))}
        </p>
      )}
      {of.says.map((says) => (
        <p key={says} className="quiet">
          {says}
        </p>
      ))}
      {of.above && <p>{of.above}</p>}
      {of.tables.map((t, n) => (
        <table key={n} className="plain">
          {t.title && <caption>{t.title}</caption>}
          <colgroup>
            {t.wide.map((wide, m) => (
              <col key={m} style={{ width: `${(100 * wide) / t.wide.reduce((a, b) => a + b, 0)}%` }} />
            ))}
          </colgroup>
          <thead>
            <tr>
              {t.heads.map((h, m) => (
                <th key={m}>{h}</th>
              ))}
            </tr>
          </thead>
          <tbody>
            {t.rows.map((row, m) => (
              <tr key={m}>
                {row.map((cell, k) => (
                  <td key={k}>
                    {cell.split('\n').map((line, l) => (
                      <Line key={l} large={l === 0 && (t.large ?? []).includes(k)} text={line} />
                    ))}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      ))}
      {of.beneath.map((says) => (
        <p key={says}>{says}</p>
      ))}
      {(of.signed ?? []).length > 0 && (
        <p className="quiet">{(of.signed ?? []).map((who) => `${who} ________`).join('   ')}</p>
      )}
      {of.foot && <p className="quiet">{of.foot}</p>}
    </article>
  )
}

function Line({ large, text }: { large: boolean; text: string }) {
  return <div>{large ? <b>{text}</b> : text}</div>
}
