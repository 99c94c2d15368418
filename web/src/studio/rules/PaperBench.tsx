import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { client, got } from '../../shared/client'
import { NoAnswer } from '../parts/bench'
import { Pick } from '../parts/controls'
import { DRAFT, useDraft } from '../parts/data'
import { PaperLeaf } from '../parts/PaperLeaf'
import { LabelsOut } from './LabelsOut'

const PAPERS = [
  ['packing-list', 'Packing list'],
  ['loading-list', 'Loading list'],
  ['bill-of-lading', 'Bill of lading'],
  ['pallet-sheets', 'Pallet sheets'],
] as const
type Paper = (typeof PAPERS)[number][0]

/** An order as if it were packed now: one of its papers as the draft has it, and the labels of its cartons. */
export default function PaperBench() {
  const draft = useDraft()
  const [order, setOrder] = useState('')
  const [paper, setPaper] = useState<Paper>('packing-list')
  const answer = useQuery({
    queryKey: ['bench', 'papers', paper, order, draft.data?.rulebook],
    enabled: !!draft.data,
    placeholderData: (before) => before,
    retry: false,
    queryFn: () =>
      got(
        client.POST('/api/drafts/{id}/bench/papers', {
          params: { path: { id: DRAFT } },
          body: { order, paper, world: null },
        }),
      ),
  })
  const found = answer.data?.found
  const pdf = `/api/drafts/${DRAFT}/bench/papers/${paper}.pdf?order=${encodeURIComponent(found?.order ?? '')}`
  return (
    <>
      <div className="ask">
        <label className="quiet" htmlFor="paper-order">
          Order
        </label>
        <Pick id="paper-order" value={order || found?.order || ''} onChange={(e) => setOrder(e.target.value)}>
          {(answer.data?.orders ?? []).map((o) => (
            <option key={o}>{o}</option>
          ))}
        </Pick>
        <label className="quiet" htmlFor="paper-kind">
          its
        </label>
        <Pick id="paper-kind" value={paper} onChange={(e) => setPaper(e.target.value as Paper)}>
          {PAPERS.map(([value, says]) => (
            <option key={value} value={value}>
              {says}
            </option>
          ))}
        </Pick>
      </div>
      <NoAnswer error={answer.error} />
      {answer.data && !found && <p className="empty">No order goes out from here.</p>}
      {found && !answer.error && (
        <>
          <p className="quiet">
            {found.form ? `By form ${found.form}. ` : 'No form is for it: the usual columns. '}
            <a href={pdf} target="_blank" rel="noreferrer">
              as PDF
            </a>
          </p>
          {found.says && <p className="mark doubt">▲ {found.says}</p>}
          {found.pages.slice(0, 3).map((page) => (
            <PaperLeaf key={page.code} of={page} />
          ))}
          {found.pages.length > 3 && <p className="quiet">and {found.pages.length - 3} more pages.</p>}
          <LabelsOut prints={answer.data?.prints ?? []} nothing={found.nothing} />
        </>
      )}
      <p className="quiet">Supposed: all of it is packed now as is proposed. Nothing is packed, and nothing printed.</p>
    </>
  )
}
