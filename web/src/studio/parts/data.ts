import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { createContext, useContext } from 'react'
import { client, got, type Shape, Trouble } from '../../shared/client'

/** The draft the studio works on: the one chosen last on this machine. */
export const DRAFT = localStorage.getItem('draft') ?? 'd-1'

/** Work on another draft from the next load of the page on. */
export function chooseDraft(id: string) {
  localStorage.setItem('draft', id)
}

/** Says something to the person at the foot of the page. */
export const Say = createContext<(says: string, changed?: string[], well?: boolean) => void>(() => undefined)

export function useDraft() {
  return useQuery({
    queryKey: ['draft', DRAFT],
    queryFn: () => got(client.GET('/api/drafts/{id}', { params: { path: { id: DRAFT } } })),
  })
}

/** Everything that was found in the draft. */
export function useFound() {
  const rulebook = useDraft().data?.rulebook
  return useQuery({
    queryKey: ['bench', 'findings', DRAFT, rulebook],
    enabled: rulebook !== undefined,
    placeholderData: (before) => before,
    queryFn: () => got(client.GET('/api/drafts/{id}/findings', { params: { path: { id: DRAFT } } })),
  })
}

export function useGround() {
  return useQuery({
    queryKey: ['ground', DRAFT],
    queryFn: () => got(client.GET('/api/drafts/{id}/ground', { params: { path: { id: DRAFT } } })),
    staleTime: Infinity,
  })
}

/** The ground as it stands, with the sites one sees. */
export function useGroundHead() {
  return useQuery({ queryKey: ['ground head'], queryFn: () => got(client.GET('/api/ground')) })
}

/** After a change of the ground: everything that shows it is fetched again, and what happened is said. */
export function useGroundChange() {
  const queries = useQueryClient()
  const say = useContext(Say)
  // a change is done when the ground that came of it is known: the next one stands on it
  const again = async () => {
    for (const key of ['ground', 'draft', 'bench', 'rehearsals', 'site map'])
      void queries.invalidateQueries({ queryKey: [key] })
    await queries.invalidateQueries({ queryKey: ['ground head'] })
  }
  return {
    done: (says: string) => (say(says, [], true), again()),
    amended: (made: Shape['Amended']) => {
      for (const draft of made.stayed)
        say(
          `${draft.name} stays on the ground as it was: it names what is gone. Site says what.`,
          draft.missing.map((f) => f.says),
        )
      if (!made.applied && made.bad[0]) say(made.bad[0].says)
      return again()
    },
    failed: (error: unknown) => (void again(), say(error instanceof Error ? error.message : String(error))),
  }
}

export function useWorlds() {
  return useQuery({ queryKey: ['worlds'], queryFn: () => got(client.GET('/api/worlds')) })
}

export function useRehearsals() {
  return useQuery({
    queryKey: ['rehearsals'],
    queryFn: () => got(client.GET('/api/rehearsals', { params: { query: { draft: DRAFT } } })),
  })
}

/** All open goods asked at once: which rule decides each, and how far each rule reaches. */
export function useOpenGoods(purpose: string, world = '') {
  const draft = useDraft()
  const kind = useGround().data?.plate_kinds[0]?.code ?? 'PAL'
  return useQuery({
    queryKey: ['bench', 'open', purpose, world, draft.data?.rulebook],
    enabled: !!draft.data,
    placeholderData: (before) => before,
    queryFn: () =>
      got(
        client.POST('/api/drafts/{id}/bench/open', {
          params: { path: { id: DRAFT } },
          body: { purpose: purpose as Shape['OpenBody']['purpose'], plate_kind: kind, world: world || null },
        }),
      ),
  })
}

export type Edit = {
  op: Shape['EditBody']['op']
  path: string
  value?: unknown
  at?: number | null
}

/** Edits, undo and redo of the draft: each is saved at once; a stale one says what changed meanwhile. */
export function useEdits() {
  const queries = useQueryClient()
  const say = useContext(Say)
  const settled = {
    scope: { id: 'draft' }, // one after another: an edit made while the last is on its way must not be stale
    onSuccess: async (edited: Shape['Edited']) => {
      void queries.invalidateQueries({ queryKey: ['general'] })
      // an older answer that is still on its way must not come after this one
      await queries.cancelQueries({ queryKey: ['draft', DRAFT], exact: true })
      queries.setQueryData<Shape['DraftView']>(['draft', DRAFT], (before) => before && { ...before, ...edited })
      void queries.invalidateQueries({ queryKey: ['bench'] })
      void queries.invalidateQueries({ queryKey: ['rehearsals'] })
      void queries.invalidateQueries({ queryKey: ['world'] })
    },
    onError: (error: unknown) => {
      const trouble = error instanceof Trouble ? error : null
      say(trouble?.message ?? String(error), trouble?.changed)
      void queries.invalidateQueries({ queryKey: ['draft', DRAFT] })
    },
  }
  const version = () => queries.getQueryData<Shape['DraftView']>(['draft', DRAFT])?.version ?? 0
  const edit = useMutation({
    mutationFn: ({ edits, says }: { edits: Edit[]; says: string }) =>
      got(
        client.POST('/api/drafts/{id}/edits', {
          params: { path: { id: DRAFT } },
          body: { version: version(), edits: edits as Shape['EditBody'][], says, look: false },
        }),
      ),
    ...settled,
  })
  const undo = useMutation({
    mutationFn: () =>
      got(client.POST('/api/drafts/{id}/undo', { params: { path: { id: DRAFT } }, body: { version: version() } })),
    ...settled,
  })
  const redo = useMutation({
    mutationFn: () =>
      got(client.POST('/api/drafts/{id}/redo', { params: { path: { id: DRAFT } }, body: { version: version() } })),
    ...settled,
  })
  return {
    edit: (edits: Edit[], says: string, made?: (paths: string[]) => void) =>
      edit.mutate({ edits, says }, { onSuccess: ({ made: paths }) => paths.length && made?.(paths) }),
    undo: () => undo.mutate(),
    redo: () => redo.mutate(),
  }
}
