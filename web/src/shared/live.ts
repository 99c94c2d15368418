import { useEffect, useRef, useState } from 'react'

export type Moved = { what: 'world' | 'draft' | 'again'; id: string; to: number }

/** One stream of server-sent events for this tab. Calls back with what moved; answers whether it is in touch. */
export function useLive(onMoved: (moved: Moved) => void): boolean {
  const [inTouch, setInTouch] = useState(true)
  const latest = useRef(onMoved)
  useEffect(() => {
    latest.current = onMoved
  })
  useEffect(() => {
    const source = new EventSource('/api/stream')
    const again = () => latest.current({ what: 'again', id: '', to: 0 })
    source.addEventListener('hello', () => {
      setInTouch(true)
      again() // whatever was missed while out of touch is fetched now
    })
    source.onmessage = (event: MessageEvent<string>) => {
      const [what, id, to] = event.data.split(' ')
      if (what === 'world' || what === 'draft') latest.current({ what, id: id ?? '', to: Number(to) })
      else again()
    }
    source.onerror = () => setInTouch(false)
    return () => source.close()
  }, [])
  return inTouch
}
