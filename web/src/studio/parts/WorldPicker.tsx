import Button from '@mui/material/Button'
import { useIsMutating, useMutation, useQueryClient } from '@tanstack/react-query'
import { useContext } from 'react'
import { Link, useSearchParams } from 'react-router'
import { client, got, newId, type Shape } from '../../shared/client'
import { DRAFT, Say, useWorlds } from './data'
import { Pick } from './controls'

/** The world a page of the floor looks at: the one in the address, else the one that suits, else the first. */
export function useWorld(suits: 'live' | 'newest') {
  const worlds = useWorlds()
  const [query, setQuery] = useSearchParams()
  const all = worlds.data?.worlds ?? []
  const chosen =
    all.find((w) => w.id === query.get('world')) ??
    (suits === 'live' ? all.find((w) => w.kind === 'live') : all.find((w) => w.seq > 0)) ??
    all[0]
  return { worlds: all, world: chosen, choose: (id: string) => setQuery({ world: id }) }
}

/** Chooses among the worlds one sees. */
export function WorldPicker({ worlds, world, choose }: ReturnType<typeof useWorld>) {
  return (
    <Pick aria-label="World" value={world?.id ?? ''} onChange={(e) => choose(e.target.value)}>
      {worlds.map((w) => (
        <option key={w.id} value={w.id}>
          {w.name} ({w.kind === 'live' ? 'live' : `run of ${w.seq === 1 ? '1 entry' : `${w.seq} entries`}`})
        </option>
      ))}
    </Pick>
  )
}

/** Where nothing runs: where one begins something. */
export function NoFloor() {
  return (
    <p className="empty">
      Nothing runs yet. Begin a live floor on <Link to="/site">Site</Link>, or a run on{' '}
      <Link to="/rehearsals">Rehearsals</Link>.
    </p>
  )
}

/** Begins a run on the draft as it stands, to try something in. */
export function NewRun({ name, begun }: { name: string; begun: (id: string) => void }) {
  const queries = useQueryClient()
  const say = useContext(Say)
  const make = useMutation({
    mutationKey: BEGIN,
    mutationFn: () => got(client.POST('/api/worlds', { body: { name, draft: DRAFT, book_seconds: 2 } })),
    onSuccess: async (w) => {
      await queries.invalidateQueries({ queryKey: ['worlds'] })
      begun(w.id)
    },
    onError: (e) => say(e.message),
  })
  return (
    <Button onClick={() => make.mutate()} disabled={make.isPending}>
      Begin a run
    </Button>
  )
}

const BEGIN = ['begin a run']

/** Is a run being begun, so that what is done now would be done on the floor before it? */
export function useBeginning(): boolean {
  return useIsMutating({ mutationKey: BEGIN }) > 0
}

/** May this person do that on this floor? On a live one as the rights there say, in a run whoever rehearses. */
export function mayDo(me: Shape['Me'], world: { kind: string; site: string } | undefined, kind: string): boolean {
  if (!world) return false // it is not known yet which
  if (world.kind !== 'live') return me.rights.includes('rehearse')
  return me.acts[world.site]?.includes(kind) ?? false
}

/** Does something in a world from the office; a refusal is said, unless whoever asks shows it, and everything of the world is
 * looked at again. */
export function useOffice(world: string, shown = false) {
  const queries = useQueryClient()
  const say = useContext(Say)
  return useMutation({
    mutationFn: (act: Shape['CommandBody']['act']) =>
      got(
        client.POST('/api/worlds/{id}/commands', {
          params: { path: { id: world } },
          body: { id: newId(), act, device: null, person: null, device_time: null, tray: false, lost: '' },
        }),
      ),
    onSuccess: (answer) => {
      if (!answer.entry.done && !shown) say(answer.entry.says)
      void queries.invalidateQueries({ queryKey: ['world', world] })
      void queries.invalidateQueries({ queryKey: ['worlds'] })
    },
    onError: (e) => !shown && say(e.message),
  })
}
