import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Pick } from '../parts/controls'
import { DRAFT, useGround } from '../parts/data'
import { mayDo, NoFloor, useOffice, useWorld, WorldPicker } from '../parts/WorldPicker'
import { Tray } from './Tray'

/** The printers of a floor with what came out and what waits; and sheets of labels from the catalogue. */
export default function Printers({ me }: { me: Shape['Me'] }) {
  const chosen = useWorld('live')
  const world = chosen.world?.id ?? ''
  const office = useOffice(world)
  return (
    <div className="page wide">
      <main className="main">
        <div className="form" style={{ float: 'right', marginTop: 0 }}>
          {chosen.worlds.length > 0 && <WorldPicker {...chosen} />}
        </div>
        <h1>Printers</h1>
        <p className="lead">
          What came out, what waits and why. Which labels are printed by themselves,{' '}
          <Link className="link" to="/papers">
            Papers
          </Link>{' '}
          says.
        </p>
        {world ? (
          <Tray
            world={world}
            act={mayDo(me, chosen.world, 'print_label') ? (a) => office.mutate(a) : undefined}
            set={mayDo(me, chosen.world, 'set_printer') ? (a) => office.mutate(a) : undefined}
          />
        ) : (
          <NoFloor />
        )}
        <Sheets />
      </main>
    </div>
  )
}

/** Labels of what the catalogue has, as PDF: on a sheet, or one after another. */
function Sheets() {
  const ground = useGround()
  const sheets = useQuery({ queryKey: ['sheets'], queryFn: () => got(client.GET('/api/labels/sheets')) })
  const [of, setOf] = useState('bin')
  const [within, setWithin] = useState('')
  const [sheet, setSheet] = useState('a4-24')
  const zones = [...new Set((ground.data?.map.zones ?? []).map((z) => z.code))]
  const groups = [...new Set((ground.data?.items ?? []).map((i) => i.group))].sort()
  const among = of === 'bin' ? zones : of === 'item' ? groups : []
  const href = `/api/drafts/${DRAFT}/labels.pdf?${new URLSearchParams({ of, within, sheet })}`
  return (
    <>
      <h2>Labels from the catalogue</h2>
      <div className="form">
        <Pick
          aria-label="Labels of"
          value={of}
          onChange={(e) => {
            setOf(e.target.value)
            setWithin('')
          }}
        >
          <option value="bin">bins</option>
          <option value="item">items, each unit</option>
          <option value="cart">carts and their places</option>
          <option value="printer">printers, to be scanned</option>
        </Pick>
        {among.length > 0 && (
          <Pick aria-label="Of" value={within} onChange={(e) => setWithin(e.target.value)}>
            <option value="">{of === 'bin' ? 'all zones' : 'all groups'}</option>
            {among.map((a) => (
              <option key={a} value={a}>
                {a}
              </option>
            ))}
          </Pick>
        )}
        <Pick aria-label="Printed on" value={sheet} onChange={(e) => setSheet(e.target.value)}>
          {(sheets.data?.sheets ?? []).map((s) => (
            <option key={s.name} value={s.name}>
              {s.says}
            </option>
          ))}
        </Pick>
        <a className="link" href={href} target="_blank" rel="noreferrer">
          Make the PDF
        </a>
      </div>
    </>
  )
}
