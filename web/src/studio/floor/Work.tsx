import { useQuery } from '@tanstack/react-query'
import type { ComponentType } from 'react'
import { useSearchParams } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Skeleton } from '../parts/Skeleton'
import { TabRow } from '../parts/TabRow'
import { mayDo, NoFloor, useOffice, useWorld, WorldPicker } from '../parts/WorldPicker'
import { Expected, NotBooked, ToInspect, ToReceive, Transfers, Unfinished } from './Arrivals'
import { DoneLately } from './DoneLately'
import type { Shown, View } from './lists'
import { NotFound } from './NotFound'
import { Shelves } from './Shelves'
import { TaskList, WaitsList } from './TaskLists'
import { AtDoor, ToUnload } from './Unloading'

type List = keyof View['lists'] | 'done'
type Listed = { id: List; title: string; does: string; Rows: ComponentType<Shown> }
/** The lists in their sequence, and what is done from each: who may not do that, looks at it. */
const TO_RECEIVE: Listed = { id: 'to_receive', title: 'To receive', does: 'receive_in_office', Rows: ToReceive }
const LISTS: Listed[] = [
  { id: 'to_unload', title: 'To unload', does: 'unload_in_office', Rows: ToUnload },
  { id: 'at_door', title: 'At the door', does: 'end_unloading', Rows: AtDoor },
  TO_RECEIVE,
  { id: 'to_inspect', title: 'To inspect', does: 'inspect_in_office', Rows: ToInspect },
  { id: 'waits', title: 'Waits for a task', does: 'make_tasks', Rows: WaitsList },
  { id: 'tasks', title: 'Tasks', does: 'hold_task', Rows: TaskList },
  { id: 'shelves', title: 'Shelves', does: 'fill_shelves', Rows: Shelves },
  { id: 'not_found', title: 'Not found', does: 'let_go', Rows: NotFound },
  { id: 'unfinished', title: 'Never finished', does: 'finish_plate', Rows: Unfinished },
  { id: 'not_booked', title: 'Arrived, not booked', does: 'book_receipt', Rows: NotBooked },
  { id: 'expected', title: 'Announced', does: 'announce_order', Rows: Expected },
  { id: 'transfers', title: 'Sent, not come', does: 'ship_transfer', Rows: Transfers },
  { id: 'done', title: 'Done lately', does: 'undo_task', Rows: DoneLately },
]

const RARE: List[] = ['to_unload', 'at_door', 'not_found']

/** What is to be done on a floor: list by list, each row with its age, its cause and what the office can do about it. */
export default function Work({ me }: { me: Shape['Me'] }) {
  const chosen = useWorld('live')
  const [query, setQuery] = useSearchParams()
  const world = chosen.world?.id
  const view = useQuery({
    queryKey: ['world', world, 'work'],
    enabled: !!world,
    queryFn: () => got(client.GET('/api/worlds/{id}/work', { params: { path: { id: world ?? '' } } })),
  })
  const office = useOffice(world ?? '')
  const step = useOffice(world ?? '', true)
  // what was done is asked only when it is looked at, so it has no count
  const counts = (list: List) => {
    const lists = view.data?.lists
    if (list === 'done' || !lists) return 0
    // of shelves those count that want something
    return list === 'shelves' ? lists.shelves.filter((s) => s.low || s.coming > 0).length : lists[list].length
  }
  // lists of what not every floor has are shown when something is on them
  const lists = LISTS.filter(({ id }) => counts(id) > 0 || !RARE.includes(id))
  const shown =
    LISTS.find(({ id }) => id === query.get('list')) ??
    LISTS.find(({ id }) => id !== TO_RECEIVE.id && id !== 'to_unload' && counts(id) > 0) ??
    TO_RECEIVE
  const show = (list: string) => {
    const next = new URLSearchParams(query)
    next.set('list', list)
    setQuery(next)
  }
  return (
    <div className="page wide">
      <main className="main">
        <div className="form" style={{ float: 'right', marginTop: 0 }}>
          {chosen.worlds.length > 0 && <WorldPicker {...chosen} />}
        </div>
        <h1>Work</h1>
        <p className="lead">What is to be done on this floor, since when, and what keeps it.</p>
        {chosen.worlds.length === 0 && <NoFloor />}
        {view.error && <p className="empty">{view.error.message}</p>}
        {!view.data ? (
          world && !view.error && <Skeleton />
        ) : (
          <>
            <TabRow
              label="Lists of work"
              tabs={lists.map(({ id, title }) => [id, `${title} ${counts(id) || ''}`.trim(), 0])}
              value={shown.id}
              choose={show}
            />
            <shown.Rows
              view={view.data}
              world={world ?? ''}
              closes={mayDo(me, chosen.world, 'close_rest')}
              act={mayDo(me, chosen.world, shown.does) ? (a) => office.mutate(a) : undefined}
              tell={
                mayDo(me, chosen.world, 'put_away_in_office')
                  ? (a) =>
                      step.mutateAsync(a).then(
                        (answer) => (answer.entry.done ? '' : answer.entry.says),
                        (error: Error) => error.message,
                      )
                  : undefined
              }
            />
          </>
        )}
      </main>
    </div>
  )
}
