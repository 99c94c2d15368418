import { useCallback, useEffect, useLayoutEffect, useRef, useState } from 'react'
import { client, got, newId, Trouble, type Shape } from '../shared/client'
import { signal } from './signals'

type Command = Shape['CommandBody']
type Scanned = Extract<Command['act'], { kind: 'answer' }>['scan']
export type Act = Command['act']
export type View = Shape['HandsetView']
/** `good` null: neither done nor refused, since nobody answered yet. */
type Question = Shape['Question']
/** What was done while an answer was on its way: a scan, or a key, by the name of what it does and what that is to the next question. */
type Ahead = { scan: Scanned } | { name: string; means: (asked: Question) => Act | null }
type Reply = { good: boolean | null; says: string }

/** Is it there, or is what is sent lost before it arrives, or the answer to it? */
export type Network = 'there' | 'before' | 'after'

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
  /** What it shows, where that was asked for already. */
  begin?: View | null
  /** On a desk the network can be lost on purpose. */
  network?: Network
}) {
  const { world, device, person, tray, seq, onEntry, begin = null, network = 'there' } = props
  const [view, setView] = useState<View | null>(begin)
  const [reply, setReply] = useState<Reply | null>(null)
  const [waiting, setWaiting] = useState<Command | null>(() => kept(world, device))
  const [outOfTouch, setOutOfTouch] = useState(false)
  const busy = useRef(false)
  /** What is not answered yet, known at once: what is shown knows it only once it is drawn again, and a scan may come before. */
  const pending = useRef(waiting)
  /** What was answered and is not drawn yet. */
  const undrawn = useRef<View | null>(null)
  /** Scans and keys made while an answer is on its way, in touch: they are for what is asked next. */
  const ahead = useRef<Ahead[]>([])
  const [loaded, setLoaded] = useState<Date | null>(() => (begin ? new Date() : null))
  const [again, setAgain] = useState(0)
  const took = useRef(0)

  const seen = view && view.world === world && view.device === device && view.person === person ? view.seq : -1
  useEffect(() => {
    // a question that stood there before its own answer would take no key
    if (seen >= 0 && (network !== 'there' || waiting)) return
    if (seen >= 0 && (seq === undefined || seq <= seen) && took.current === again) return
    took.current = again
    let gone = false
    const request = client.GET('/api/worlds/{id}/handsets/{device}', {
      params: { path: { id: world, device }, query: { person, tray } },
    })
    got(request).then(
      (answer) => {
        if (gone || (seen >= 0 && pending.current)) return // sent since, and not drawn yet
        setView(answer)
        setLoaded(new Date())
      },
      (trouble: unknown) =>
        !gone &&
        trouble instanceof Trouble &&
        setReply({ good: trouble.status === 0 || trouble.status >= 500 ? null : false, says: trouble.message }),
    )
    return () => {
      gone = true
    }
  }, [world, device, person, tray, seq, seen, again, network, waiting])

  useLayoutEffect(() => {
    undrawn.current = null
  }, [view])

  const send = useCallback(
    async (first: Command) => {
      if (busy.current) return
      busy.current = true
      for (let command: Command | null = first; command;) {
        const now: Command = network === 'there' ? command : { ...command, lost: network }
        command = null
        keep(world, device, now)
        pending.current = now
        setWaiting(now)
        try {
          if (network === 'before') throw new Trouble('lost on purpose', 0, 'lost')
          const answer = await got(
            client.POST('/api/worlds/{id}/commands', {
              params: { path: { id: world } },
              body: now,
              signal: AbortSignal.timeout(PATIENCE_MS),
            }),
          )
          if (network === 'after') {
            onEntry?.(answer.entry)
            throw new Trouble('lost on purpose', 0, 'lost')
          }
          setOutOfTouch(false)
          if (answer.handset) {
            undrawn.current = answer.handset
            setView(answer.handset)
            setLoaded(new Date())
          }
          onEntry?.(answer.entry)
          const question = answer.handset?.question
          const act = answer.entry.done && question ? meant(ahead.current[0], question) : null
          if (act) ahead.current.shift()
          settle(answer.entry.done, answer.entry.says, act !== null)
          if (act) {
            command = { ...now, id: newId(), act, device_time: new Date().toISOString(), lost: '' }
          }
        } catch (trouble) {
          if (!(trouble instanceof Trouble)) throw trouble
          if (trouble.status === 0 || trouble.status >= 500) {
            setOutOfTouch(true)
            ahead.current = []
            const says =
              trouble.status === 0
                ? 'The server is out of reach. Your scan is kept and sent again by itself.'
                : trouble.message
            // what was said meanwhile of a scan that was not taken stays to be read
            setReply((said) => (said?.good === null ? said : { good: null, says }))
          } else settle(false, trouble.message)
        } finally {
          if (!command) busy.current = false
        }
      }

      /** It was answered. What was scanned meanwhile and answers nothing now is not taken, which is said. */
      function settle(done: boolean, says: string, more = false) {
        keep(world, device, null)
        pending.current = null
        setWaiting(null)
        const lost = !more && ahead.current.length > 0
        const scanned = ahead.current.some((x) => 'scan' in x)
        if (lost) ahead.current = []
        setReply(
          lost
            ? { good: false, says: `${says} What was ${scanned ? 'scanned' : 'pressed'} after it was not taken.` }
            : { good: done, says },
        )
        signal(done && !lost)
      }
    },
    [world, device, onEntry, network],
  )

  useEffect(() => {
    if (!waiting) return
    const timer = setInterval(() => void send(waiting), RETRY_MS)
    return () => clearInterval(timer)
  }, [waiting, send])

  const act = useCallback(
    (what: Act) => {
      if (busy.current || pending.current) {
        if (what.kind !== 'answer') return // a button pressed twice is pressed once
        if (outOfTouch) {
          setReply({
            good: null,
            says: 'Out of touch: this one was not taken. The scan before it is kept and sent again.',
          })
          signal(false)
        } else ahead.current.push({ scan: what.scan })
        return
      }
      const next = undrawn.current?.question
      const early = what.kind === 'answer' && next && next.keys !== 'none'
      void send({
        id: newId(),
        act: early ? { ...what, dialogue: next.dialogue, step: next.step } : what,
        device,
        person: person || null,
        device_time: new Date().toISOString(),
        tray,
        lost: '',
      })
    },
    [outOfTouch, send, device, person, tray],
  )
  /** A key is pressed: what it does to what is asked now, or, while an answer is on its way, to what is asked next. Pressed twice it is pressed once. */
  const key = useCallback(
    (name: string, asked: Question, means: (asked: Question) => Act | null) => {
      const under = pending.current?.act
      if (!busy.current && !under) {
        const now = means(undrawn.current?.question ?? asked)
        if (now) act(now)
        return
      }
      const last = ahead.current.at(-1)
      const again = last ? 'name' in last && last.name === name : under?.kind === 'press' && under.action === name
      if (!again && !outOfTouch) ahead.current.push({ name, means })
    },
    [act, outOfTouch],
  )
  const reload = useCallback(() => setAgain((n) => n + 1), [])
  return { view, reply, act, key, waiting: waiting !== null, outOfTouch, loaded, reload }
}

/** What is done next of what was done ahead; null: it means nothing to this question. */
function meant(first: Ahead | undefined, asked: Question): Act | null {
  if (!first) return null
  if ('means' in first) return first.means(asked)
  if (asked.keys === 'none') return null
  return { kind: 'answer', dialogue: asked.dialogue, step: asked.step, scan: first.scan }
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
