import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useContext, useState } from 'react'
import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { Say } from './data'
import { useOffice } from './WorldPicker'

type Act = Shape['CommandBody']['act']
type Expectation = Shape['PinBody']['expectation']

/** Does something in a world from the office and keeps what it answered on the page, done or refused, until it is closed. ``done`` is told what
 * was carried out. */
export function useAnswered(world: string, done?: (a: Act) => void) {
  const office = useOffice(world, true)
  const [answer, setAnswer] = useState<{ done: boolean; says: string } | null>(null)
  const act = (a: Act) =>
    office.mutate(a, {
      onSuccess: ({ entry }) => {
        setAnswer({ done: entry.done, says: entry.says })
        if (entry.done) done?.(a)
      },
      onError: (e) => setAnswer({ done: false, says: e.message }),
    })
  const shown = answer && (
    <p className="banner" role="status">
      <span className={`mark ${answer.done ? 'holds' : 'fails'}`} style={{ whiteSpace: 'normal' }}>
        {answer.done ? '✓' : '✕'} <Told text={answer.says} />
      </span>
      <button className="link" onClick={() => setAnswer(null)}>
        Close
      </button>
    </p>
  )
  return { act, shown }
}

/** Makes something an expectation at the end of a run. */
export function usePin(world: string) {
  const say = useContext(Say)
  const queries = useQueryClient()
  const pin = useMutation({
    mutationFn: (expectation: Expectation) =>
      got(client.POST('/api/worlds/{id}/pins', { params: { path: { id: world } }, body: { seq: null, expectation } })),
    onSuccess: (w) => {
      queries.setQueryData(['world', world], w)
      say('Pinned: so it must be at the end of the run.', [], true)
    },
    onError: (e) => say(e.message),
  })
  return (e: Expectation) => pin.mutate(e)
}
