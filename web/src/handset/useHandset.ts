import { useCallback, useEffect, useRef, useState } from 'react'
import { client, got, newId, Trouble, type Shape } from '../shared/client'
import { signal } from './signals'

type Command = Shape['CommandBody']
export type Act = Command['act']
export type View = Shape['HandsetView']
/** `good` null: neither done nor refused, since nobody answered yet. */
type Reply = { good: boolean | null; says: string }

const RETRY_MS = 1500
/** So long an answer is waited for; then the same command is sent again under its id. */
const PATIENCE_MS = 12_000

/**
 * A handset in a world: what it shows, the last reply, and the one command not yet answered.
 * Out of touch it keeps that command, under the same id, and sends it again until it is answered.
 */
export function useHandset(props: {
  world: string
  device: string
  person: string
  tray: boolean
  seq?: number
  onEntry?: (e: Shape['EntryView']) => void
}) {
  const { world, device, person, tray, seq, onEntry } = props
  const [view, setView] = useState<View | null>(null)
  const [reply, setReply] = useState<Reply | null>(null)
  const [waiting, setWaiting] = useState<Command | null>(() => kept(world, device))
  const [outOfTouch, setOutOfTouch] = useState(false)
  const busy = useRef(false)

  const seen = view && view.world === world && view.device === device && view.person === person ? view.seq : -1
  useEffect(() => {
    if (seen >= 0 && (seq === undefined || seq <= seen)) return
    let gone = false
    const request = client.GET('/api/worlds/{id}/handsets/{device}', {
      params: { path: { id: world, device }, query: { person, tray } },
    })
    got(request).then(
      (answer) => !gone && setView(answer),
      (trouble: unknown) =>
        !gone &&
        trouble instanceof Trouble &&
        setReply({ good: trouble.status === 0 || trouble.status >= 500 ? null : false, says: trouble.message }),
    )
    return () => {
      gone = true
    }
  }, [world, device, person, tray, seq, seen])

  const send = useCallback(
    async (command: Command) => {
      if (busy.current) return
      busy.current = true
      keep(world, device, command)
      setWaiting(command)
      try {
        const answer = await got(
          client.POST('/api/worlds/{id}/commands', {
            params: { path: { id: world } },
            body: command,
            signal: AbortSignal.timeout(PATIENCE_MS),
          }),
        )
        keep(world, device, null)
        setWaiting(null)
        setOutOfTouch(false)
        setReply({ good: answer.entry.done, says: answer.entry.says })
        if (answer.handset) setView(answer.handset)
        signal(answer.entry.done)
        onEntry?.(answer.entry)
      } catch (trouble) {
        if (!(trouble instanceof Trouble)) throw trouble
        if (trouble.status === 0 || trouble.status >= 500) {
          setOutOfTouch(true)
          setReply({
            good: null,
            says:
              trouble.status === 0
                ? 'The server is out of reach. Your scan is kept and sent again by itself.'
                : trouble.message,
          })
        } else {
          keep(world, device, null)
          setWaiting(null)
          setReply({ good: false, says: trouble.message })
          signal(false)
        }
      } finally {
        busy.current = false
      }
    },
    [world, device, onEntry],
  )

  useEffect(() => {
    if (!waiting) return
    const timer = setInterval(() => void send(waiting), RETRY_MS)
    return () => clearInterval(timer)
  }, [waiting, send])

  const act = useCallback(
    (what: Act) => {
      if (waiting) return // one scan at a time: the last is not answered yet
      void send({ id: newId(), act: what, device, person: person || null, device_time: new Date().toISOString(), tray })
    },
    [waiting, send, device, person, tray],
  )
  return { view, reply, act, waiting: waiting !== null, outOfTouch }
}

function place(world: string, device: string): string {
  return `unanswered ${world} ${device}`
}

function kept(world: string, device: string): Command | null {
  const text = localStorage.getItem(place(world, device))
  return text ? (JSON.parse(text) as Command) : null
}

function keep(world: string, device: string, command: Command | null): void {
  if (command) localStorage.setItem(place(world, device), JSON.stringify(command))
  else localStorage.removeItem(place(world, device))
}
