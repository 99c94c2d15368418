import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useRef } from 'react'
import { client, got } from '../../shared/client'

const WAIT_MS = 600

/** What a person chose about how something looks, kept by the server so that it follows them; `first` until they choose.
 * What is chosen holds at once and is sent when the hands rest. Undefined until it is known. */
export function useKept<T>(name: string, first: T): [T | undefined, (value: T | null) => void] {
  const queries = useQueryClient()
  const all = useQuery({
    queryKey: ['kept'],
    queryFn: async () => (await got(client.GET('/api/me/kept'))).kept as Record<string, unknown>,
    staleTime: Infinity,
  })
  const due = useRef<{ timer: ReturnType<typeof setTimeout>; send: () => void } | null>(null)
  useEffect(
    () => () => {
      if (!due.current) return
      clearTimeout(due.current.timer)
      due.current.send() // the page is left before the hands rested
    },
    [],
  )
  const keep = (value: T | null) => {
    queries.setQueryData<Record<string, unknown>>(['kept'], (known) => ({ ...known, [name]: value }))
    if (due.current) clearTimeout(due.current.timer)
    const send = () => {
      due.current = null
      // should it not get through, it is as it was on the next machine; nothing else hangs on it
      client.PUT('/api/me/kept/{name}', { params: { path: { name } }, body: { value } }).catch(() => undefined)
    }
    due.current = { timer: setTimeout(send, WAIT_MS), send }
  }
  if (all.isPending) return [undefined, keep]
  return [(all.data?.[name] ?? first) as T, keep]
}
