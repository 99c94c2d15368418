import Button from '@mui/material/Button'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { useAnswered } from '../parts/Answered'
import { Entry } from '../parts/controls'
import { Skeleton } from '../parts/Skeleton'
import { mayDo, NoFloor, useWorld, WorldPicker } from '../parts/WorldPicker'
import type { Act } from './lists'

/** Scales and carriers of a floor as stand-ins: what each reads or answers, made to fail on purpose. */
export default function StandIns({ me }: { me: Shape['Me'] }) {
  const chosen = useWorld('live')
  const world = chosen.world?.id ?? ''
  const view = useQuery({
    queryKey: ['world', world, 'devices'],
    enabled: !!world,
    queryFn: () => got(client.GET('/api/worlds/{id}/devices', { params: { path: { id: world } } })),
  })
  const answered = useAnswered(world)
  return (
    <div className="page wide">
      <main className="main">
        <div className="form" style={{ float: 'right', marginTop: 0 }}>
          {chosen.worlds.length > 0 && <WorldPicker {...chosen} />}
        </div>
        <h1>Stand-ins</h1>
        <p className="lead">
          Outside devices and services as this floor has them. What they do is in its log, so rewinding rewinds them.
          There are also the{' '}
          <Link className="link" to={`/printers?world=${world}`}>
            printers
          </Link>{' '}
          and the{' '}
          <Link className="link" to={`/host?world=${world}`}>
            host
          </Link>
          .
        </p>
        {!world && <NoFloor />}
        {answered.shown}
        {world && !view.data && !view.error && <Skeleton />}
        {view.error && <p className="empty">{view.error.message}</p>}
        {view.data && (
          <>
            <h2>Scales</h2>
            {view.data.scales.length === 0 && (
              <p className="empty">No pack station of this site has a scale. Pack stations are in the catalogue.</p>
            )}
            <table className="plain rows" aria-label="Scales">
              <tbody>
                {view.data.scales.map((s) => (
                  <ScaleRow
                    key={s.station}
                    of={s}
                    act={mayDo(me, chosen.world, 'set_scale') ? answered.act : undefined}
                  />
                ))}
              </tbody>
            </table>
            <h2>Till</h2>
            <TillRow of={view.data.till} act={mayDo(me, chosen.world, 'set_till') ? answered.act : undefined} />
            <h2>Carriers</h2>
            <table className="plain rows" aria-label="Carriers">
              <tbody>
                {view.data.carriers.map((c) => (
                  <CarrierRow
                    key={c.code}
                    of={c}
                    act={mayDo(me, chosen.world, 'set_carrier') ? answered.act : undefined}
                  />
                ))}
              </tbody>
            </table>
          </>
        )}
      </main>
    </div>
  )
}

const NOW = (kg: string) => (kg.trim() === '' ? null : Math.round(Number(kg.replace(',', '.')) * 1_000_000))

function ScaleRow({ of, act }: { of: Shape['ScaleView']; act?: (a: Act) => void }) {
  const [kg, setKg] = useState('')
  const [off, setOff] = useState('')
  const set = (scale: Partial<Shape['ScaleView']['scale']>) =>
    act?.({
      kind: 'set_scale',
      station: of.station,
      scale: { down: false, drift_mg: of.scale.drift_mg, typed_mg: of.scale.typed_mg, ...scale },
    })
  return (
    <tr>
      <td>
        {of.name}
        <div className="quiet">
          <span className="code">{of.bin}</span>
        </div>
        {of.real && <div className="quiet">a real one: {of.real}</div>}
      </td>
      <td>
        <span className={`mark ${of.scale.down ? 'fails' : 'holds'}`}>
          {of.scale.down ? '✕' : '●'} {of.says}
        </span>
        {of.failed && <div className="quiet">{of.failed}</div>}
      </td>
      <td>
        {act && !of.real && (
          <form
            className="form"
            onSubmit={(e) => {
              e.preventDefault()
              set({ typed_mg: NOW(kg), drift_mg: NOW(off) ?? 0 })
            }}
          >
            <Entry
              aria-label={`What lies on the scale of ${of.name}, in kg`}
              placeholder="what lies on it, kg"
              style={{ width: 150 }}
              inputMode="decimal"
              value={kg}
              onChange={(e) => setKg(e.target.value)}
            />
            <Entry
              aria-label={`How much the scale of ${of.name} is off, in kg`}
              placeholder="off by, kg"
              style={{ width: 110 }}
              inputMode="decimal"
              value={off}
              onChange={(e) => setOff(e.target.value)}
            />
            <Button type="submit" disabled={Number.isNaN(NOW(kg) ?? 0) || Number.isNaN(NOW(off) ?? 0)}>
              {kg || off ? 'Read that' : 'Read what lies on it'}
            </Button>
            <Button onClick={() => set({ down: !of.scale.down })}>
              {of.scale.down ? 'Let it answer' : 'Let it not answer'}
            </Button>
          </form>
        )}
      </td>
    </tr>
  )
}

/** The till of a store: how often it copies the stock of this floor. Beside the stock of an item stands what it says. */
function TillRow({ of, act }: { of: Shape['TillView'] | null; act?: (a: Act) => void }) {
  const [minutes, setMinutes] = useState('')
  const every = minutes.trim() === '' ? 15 : Number(minutes)
  const old = of?.minutes_old === 1 ? '1 minute' : `${of?.minutes_old ?? 0} minutes`
  return (
    <div className="form">
      <span className={of && !of.minutes ? 'mark doubt' : 'quiet'}>
        {!of && 'This floor has no till.'}
        {of &&
          `It knows ${of.items} items. What it says is ${old} old${of.minutes ? `, and is copied every ${of.minutes} min` : ', and is never copied again'}.`}
      </span>
      {act && (
        <form
          className="form"
          style={{ margin: 0 }}
          onSubmit={(e) => {
            e.preventDefault()
            act({ kind: 'set_till', minutes: every })
          }}
        >
          <Entry
            aria-label="Copied every so many minutes; 0: never again"
            placeholder="every 15 min; 0: never"
            style={{ width: 170 }}
            inputMode="numeric"
            value={minutes}
            onChange={(e) => setMinutes(e.target.value)}
          />
          <Button type="submit" disabled={!Number.isInteger(every) || every < 0}>
            {of ? 'Set it so' : 'There is one'}
          </Button>
          {of && <Button onClick={() => act({ kind: 'set_till', minutes: null })}>There is none</Button>}
        </form>
      )}
    </div>
  )
}

function CarrierRow({ of, act }: { of: Shape['CarrierView']; act?: (a: Act) => void }) {
  const [why, setWhy] = useState('')
  const [seconds, setSeconds] = useState('')
  const set = (more: Partial<Shape['CarrierView']['stand_in']>) =>
    act?.({
      kind: 'set_carrier',
      carrier: of.code,
      stand_in: { down: false, refuses: '', seconds: 0, real: false, ...more },
    })
  const now = of.stand_in
  return (
    <tr>
      <td>
        {of.name}
        <div className="quiet">
          <span className="code">{of.code}</span> {of.services.join(', ')}
        </div>
        {of.real && <div className="quiet">a real one: {of.real}</div>}
      </td>
      <td>
        <span className={`mark ${now.down || now.refuses ? 'fails' : 'holds'}`}>
          {now.down ? '✕ does not answer' : now.refuses ? `✕ refuses: ${now.refuses}` : '● takes bookings'}
          {now.seconds > 0 && `, after ${now.seconds} s`}
        </span>
        {of.failed && <div className="quiet">{of.failed}</div>}
        {of.waits.length > 0 && <div className="mark doubt">… asked about {of.waits.join(', ')}</div>}
        {of.booked.length > 0 && <div className="quiet">booked: {of.booked.join(', ')}</div>}
      </td>
      <td>
        {act && !of.real && (
          <form
            className="form"
            onSubmit={(e) => {
              e.preventDefault()
              set({ refuses: why.trim(), seconds: Number(seconds) || 0 })
            }}
          >
            <Entry
              aria-label={`Why ${of.name} refuses`}
              placeholder="refuses, because"
              style={{ width: 170 }}
              maxLength={200}
              value={why}
              onChange={(e) => setWhy(e.target.value)}
            />
            <Entry
              aria-label={`Seconds ${of.name} takes`}
              placeholder="seconds"
              style={{ width: 90 }}
              inputMode="numeric"
              value={seconds}
              onChange={(e) => setSeconds(e.target.value)}
            />
            <Button type="submit">{why.trim() ? 'Let it refuse' : 'Let it take bookings'}</Button>
            <Button onClick={() => set({ down: !now.down })}>{now.down ? 'Let it answer' : 'Let it not answer'}</Button>
          </form>
        )}
      </td>
    </tr>
  )
}
