import { useEffect, useRef, useState } from 'react'

export type Moved = { what: 'world' | 'draft' | 'ground' | 'import' | 'again'; id: string; to: number }

/** So long a tab waits before it asks again after it was refused. */
const REFUSED_MS = 20_000

/** One stream of server-sent events for this tab, about the worlds it looks at (ids, blanks between). Calls back with what moved; answers null while it is in touch, and
 * otherwise how old what is on screen is, in seconds. */
export function useLive(onMoved: (moved: Moved) => void, worlds: string): number | null {
  const [lost, setLost] = useState<number | null>(null)
  const [now, setNow] = useState(0)
  useEffect(() => {
    if (lost === null) return
    const clock = setInterval(() => setNow(Date.now()), 1000)
    return () => clearInterval(clock)
  }, [lost])
  const latest = useRef(onMoved)
  useEffect(() => {
    latest.current = onMoved
  })
  useEffect(() => {
    let source: EventSource
    let later: ReturnType<typeof setTimeout> | undefined
    const again = () => latest.current({ what: 'again', id: '', to: 0 })
    const open = () => {
      source = new EventSource(`/api/stream?${new URLSearchParams(worlds.split(' ').map((w) => ['world', w || '-']))}`)
      source.addEventListener('hello', () => {
        setLost(null)
        again() // whatever was missed while out of touch is fetched now
      })
      source.onmessage = (event: MessageEvent<string>) => {
        const [what, id, to] = event.data.split(' ')
        if (what === 'world' || what === 'draft' || what === 'ground' || what === 'import')
          latest.current({ what, id: id ?? '', to: Number(to) })
        else again()
      }
      source.onerror = () => {
        setLost((since) => since ?? Date.now())
        // a browser tries again by itself unless it was refused: too many windows, a session that ended
        if (source.readyState === EventSource.CLOSED) later = setTimeout(open, REFUSED_MS)
      }
    }
    open()
    return () => {
      clearTimeout(later)
      source.close()
    }
  }, [worlds])
  return lost === null ? null : Math.max(0, Math.round((now - lost) / 1000))
}

/** Seconds as a person says them. */
export function ago(seconds: number): string {
  return seconds < 60
    ? `${seconds} s`
    : seconds < 3600
      ? `${Math.floor(seconds / 60)} min`
      : `${Math.floor(seconds / 3600)} h`
}
