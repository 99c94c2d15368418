import { useQuery } from '@tanstack/react-query'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { when } from '../../shared/when'
import { DRAFT, useDraft, useRehearsals } from '../parts/data'

/** What was put in force, by whom, and how far it had been rehearsed by then: who can be asked what was tried. */
export function Signed() {
  const draft = useDraft()
  const ran = useRehearsals()
    .data?.rehearsals.map((r) => r.in_force?.id ?? 0)
    .join()
  const signed = useQuery({
    queryKey: ['bench', 'in force', 'signed', DRAFT, draft.data?.rulebook, ran],
    enabled: !!draft.data,
    placeholderData: (before) => before,
    queryFn: () => got(client.GET('/api/drafts/{id}/signed', { params: { path: { id: DRAFT } } })),
  })
  if (!signed.data?.revisions.length) return null
  return (
    <section>
      <h2>What was put in force</h2>
      <table className="plain" aria-label="What was put in force">
        <thead>
          <tr>
            <th>Revision</th>
            <th>Put by</th>
            <th>Rehearsals on it</th>
            <th>Run by</th>
            <th>Tried of it</th>
          </tr>
        </thead>
        <tbody>
          {signed.data.revisions.map((r) => (
            <Row key={r.no} of={r} />
          ))}
        </tbody>
      </table>
    </section>
  )
}

function Row({ of: r }: { of: Shape['SignedView'] }) {
  const clean = !r.failed && !r.without && r.before === r.passed
  return (
    <tr>
      <td>
        <b>{r.no}</b> {r.name} {r.now && <span className="mark holds">● in force</span>}
      </td>
      <td className="quiet">
        <Told text={`@${r.by}, ${when(r.at)}`} />
      </td>
      <td>
        <span className={`mark ${r.failed ? 'fails' : clean ? 'holds' : 'doubt'}`}>
          {r.failed ? '✕' : clean ? '●' : '▲'} {r.passed} passed
        </span>
        <div className="quiet">
          {r.before} before it was put in force
          {r.failed > 0 && `, ${r.failed} failed`}
          {r.without > 0 && `, ${r.without} never ran on it`}
        </div>
      </td>
      <td className="quiet">
        <Told text={r.ran_by.map((who) => `@${who}`).join(', ') || 'nobody'} />
      </td>
      <td>
        {r.tried} of {r.parts} parts
      </td>
    </tr>
  )
}
