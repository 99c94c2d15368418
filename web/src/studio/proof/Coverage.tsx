import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Skeleton } from '../parts/Skeleton'
import { DRAFT, useDraft } from '../parts/data'

/** What of the draft its rehearsals have tried, list by list; and what nobody has, each with the way to it. */
export function Coverage({ results }: { results: string }) {
  const draft = useDraft()
  const covered = useQuery({
    queryKey: ['coverage', DRAFT, draft.data?.rulebook, results],
    enabled: !!draft.data,
    placeholderData: (before) => before,
    queryFn: () => got(client.GET('/api/drafts/{id}/coverage', { params: { path: { id: DRAFT } } })),
  })
  if (covered.error) return <p className="empty">{covered.error.message}</p>
  if (!covered.data) return <Skeleton />
  const { lists, runs, without } = covered.data
  return (
    <>
      <p className="quiet">
        By the results of {runs === 1 ? '1 rehearsal' : `${runs} rehearsals`} on the draft as it is.
        {without > 0 &&
          ` ${without === 1 ? '1 has' : `${without} have`} none on these rules and count for nothing: run all.`}{' '}
        A part is tried when it did something in a run: a rule that chose, a plan that goods went by, a flow that was
        opened.
      </p>
      <table className="plain" aria-label="What was tried">
        <thead>
          <tr>
            <th>Of</th>
            <th>Tried</th>
            <th>Not yet</th>
          </tr>
        </thead>
        <tbody>
          {lists.map((c) => (
            <Row key={c.title} of={c} />
          ))}
        </tbody>
      </table>
    </>
  )
}

const FEW = 12

function Row({ of: c }: { of: Shape['CoveredView'] }) {
  const whole = c.tried === c.total
  return (
    <tr>
      <td>{c.title}</td>
      <td style={{ whiteSpace: 'nowrap' }}>
        <span className={`mark ${whole ? 'holds' : c.tried ? 'doubt' : 'fails'}`}>
          {whole ? '●' : c.tried ? '▲' : '✕'} {c.tried} of {c.total}
        </span>
      </td>
      <td>
        {c.untried.slice(0, FEW).map((u, n) => (
          <span key={`${u.name} ${u.link}`}>
            {n > 0 && ', '}
            <Link className="link" to={`/${u.link}`}>
              {u.name}
            </Link>
          </span>
        ))}
        {c.untried.length > FEW && <span className="quiet"> and {c.untried.length - FEW} more</span>}
      </td>
    </tr>
  )
}
