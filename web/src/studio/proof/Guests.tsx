import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useContext } from 'react'
import { client, got, type Shape } from '../../shared/client'
import { Names } from '../../shared/Told'
import { Pick } from '../parts/controls'
import { Say } from '../parts/data'

/** Who was asked into a run: it is among their floors on the handset; people of the floor see no other. */
export function Guests({ world, people }: { world: Shape['WorldView']; people: { id: string; name: string }[] }) {
  const queries = useQueryClient()
  const say = useContext(Say)
  const names = useContext(Names)
  const settled = {
    onSuccess: (w: Shape['WorldView']) => queries.setQueryData(['world', world.id], w),
    onError: (e: Error) => say(e.message),
  }
  const id = world.id
  const askIn = useMutation({
    mutationFn: (person: string) =>
      got(client.POST('/api/worlds/{id}/guests', { params: { path: { id } }, body: { person } })),
    ...settled,
  })
  const askOut = useMutation({
    mutationFn: (person: string) =>
      got(client.DELETE('/api/worlds/{id}/guests/{person}', { params: { path: { id, person } } })),
    ...settled,
  })
  const others = people.filter((p) => !world.guests.includes(p.id))
  return (
    <div className="form quiet" style={{ marginTop: 0 }}>
      <span>{world.guests.length ? 'Asked in, with their own handsets:' : 'Nobody else is in it.'}</span>
      {world.guests.map((person) => (
        <span key={person}>
          {names[person] ?? person}{' '}
          <button
            className="link"
            aria-label={`No longer ask ${names[person] ?? person} in`}
            onClick={() => askOut.mutate(person)}
          >
            out
          </button>
        </span>
      ))}
      {others.length > 0 && (
        <Pick aria-label="Ask somebody in" value="" onChange={(e) => e.target.value && askIn.mutate(e.target.value)}>
          <option value="">Ask somebody in</option>
          {others.map((p) => (
            <option key={p.id} value={p.id}>
              {p.name}
            </option>
          ))}
        </Pick>
      )}
    </div>
  )
}
