import Button from '@mui/material/Button'
import { useMutation, useQuery } from '@tanstack/react-query'
import { useEffect, useState } from 'react'

import { client, got, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { useGroundChange } from '../parts/data'

import { Block, Head, PURPOSES, word } from './Site'
import { Entry, Pick } from '../parts/controls'

const PRESETS: Record<string, Partial<Block>> = {
  'Dock doors': {
    purpose: 'door',
    bin_type: 'LANE',
    zone: 'DOOR',
    zone_name: 'Doors',
    aisles: 4,
    bays: 1,
    levels: 1,
    aisle_pitch_mm: 6_000,
    pattern: '{zone}-{aisle}',
    y_mm: 0,
  },
  'Receiving lanes': {
    purpose: 'receiving',
    bin_type: 'LANE',
    zone: 'RCV',
    zone_name: 'Receiving',
    aisles: 4,
    bays: 1,
    levels: 1,
    aisle_pitch_mm: 6_000,
    pattern: '{zone}-{aisle:02}',
    y_mm: 4_000,
  },
  'Pallet racks': {
    purpose: 'reserve',
    bin_type: 'RACK',
    zone: 'RSV',
    zone_name: 'Reserve',
    aisles: 4,
    bays: 20,
    levels: 4,
    bay_pitch_mm: 1_200,
    height_mm: 1_900,
    pattern: 'R-{aisle:02}-{bay:02}-{level}',
    y_mm: 10_000,
  },
  'Pick shelves': {
    purpose: 'pick',
    bin_type: 'SHELF',
    zone: 'PCK',
    zone_name: 'Pick',
    aisles: 3,
    bays: 16,
    levels: 4,
    bay_pitch_mm: 1_000,
    height_mm: 450,
    pattern: 'P-{aisle:02}-{bay:02}-{level}',
    y_mm: 10_000,
  },
  'Floor places': {
    purpose: 'bulk',
    bin_type: 'PLACE',
    zone: 'BLK',
    zone_name: 'Bulk',
    aisles: 4,
    bays: 12,
    levels: 1,
    aisle_pitch_mm: 3_000,
    bay_pitch_mm: 1_400,
    pattern: 'B-{aisle:02}-{bay:02}',
    y_mm: 10_000,
  },
}
const PLAIN: Block = {
  zone: '',
  zone_name: '',
  purpose: 'reserve',
  bin_type: 'RACK',
  aisles: 1,
  bays: 1,
  levels: 1,
  slots: 1,
  first_aisle: 1,
  first_bay: 1,
  x_mm: 2_000,
  y_mm: 2_000,
  aisle_pitch_mm: 4_000,
  bay_pitch_mm: 1_200,
  height_mm: null,
  pattern: '{zone}-{aisle:02}-{bay:02}-{level}',
  walk: 'back_and_forth',
}

/** Blocks of bins with their codes, seen on the map before they are made. */
export function LayOut({
  site,
  head,
  ghost,
  close,
  kinds,
}: {
  site: Head
  head: Shape['GroundHead']
  ghost: (map: Shape['SiteMap'] | null) => void
  close: () => void
  kinds: Shape['BinKindView'][]
}) {
  const change = useGroundChange()
  // codes are told apart across sites, so those of a further site begin with its own
  const preset = (name: string): Block => {
    const block = { ...PLAIN, ...PRESETS[name] }
    const before = head.sites.length > 1 ? `${site.code}-` : ''
    return {
      ...block,
      zone: before + block.zone,
      pattern: block.pattern.startsWith('{zone}') ? block.pattern : before + block.pattern,
    }
  }
  const [block, setBlock] = useState<Block>(() => preset(site.bins ? 'Pallet racks' : 'Receiving lanes'))
  const seen = useQuery({
    queryKey: ['layout', site.code, head.no, block],
    queryFn: () =>
      got(
        client.POST('/api/ground/layout', { body: { base: head.no, site: site.code, blocks: [block], apply: false } }),
      ),
    placeholderData: (before) => before,
    retry: false,
  })
  useEffect(() => ghost(seen.data?.map ?? null), [seen.data, ghost])
  const make = useMutation({
    mutationFn: () =>
      got(
        client.POST('/api/ground/layout', { body: { base: head.no, site: site.code, blocks: [block], apply: true } }),
      ),
    onSuccess: (made) => (ghost(null), change.done(`${made.made.toLocaleString()} bins were made.`)),
    onError: (e) => change.failed(e),
  })
  const set = (some: Partial<Block>) => setBlock({ ...block, ...some })
  const number = (name: keyof Block, says: string, metres = false) => (
    <label className="field" key={name}>
      <span>{says}</span>
      <Entry
        type="number"
        min={0}
        step={metres ? 0.1 : 1}
        value={block[name] === null ? '' : metres ? Number(block[name]) / 1_000 : String(block[name])}
        onChange={(e) =>
          set({
            [name]:
              e.target.value === '' && name === 'height_mm'
                ? null
                : Math.round(Number(e.target.value) * (metres ? 1_000 : 1)),
          })
        }
      />
    </label>
  )
  const problems = seen.data?.problems ?? []
  const first = seen.data?.map?.code
  return (
    <>
      <h2>
        Lay out bins{' '}
        <button className="link quiet" onClick={close}>
          close
        </button>
      </h2>
      <div className="form" style={{ margin: '0 0 8px' }}>
        {Object.keys(PRESETS).map((name) => (
          <Button key={name} onClick={() => setBlock({ ...preset(name), x_mm: block.x_mm })}>
            {name}
          </Button>
        ))}
      </div>
      <div className="fields">
        <label className="field">
          <span>zone</span>
          <Entry
            style={{ fontFamily: 'var(--mono)' }}
            value={block.zone}
            onChange={(e) => set({ zone: e.target.value.toUpperCase() })}
          />
        </label>
        <label className="field wide2">
          <span>its name</span>
          <Entry value={block.zone_name} onChange={(e) => set({ zone_name: e.target.value })} />
        </label>
        <label className="field wide2">
          <span>what it is for</span>
          <Pick value={block.purpose} onChange={(e) => set({ purpose: e.target.value as Block['purpose'] })}>
            {PURPOSES.map((p) => (
              <option key={p} value={p}>
                {word(p)}
              </option>
            ))}
          </Pick>
        </label>
        <label className="field">
          <span>type of bin</span>
          <Pick value={block.bin_type} onChange={(e) => set({ bin_type: e.target.value })}>
            {kinds.map((k) => (
              <option key={k.code} value={k.code}>
                {k.name} ({k.limits})
              </option>
            ))}
          </Pick>
        </label>
        {number('aisles', 'aisles')}
        {number('bays', 'bays')}
        {number('levels', 'levels')}
        {number('slots', 'slots a bay')}
        {number('first_aisle', 'first aisle')}
        {number('first_bay', 'first bay')}
        {number('x_mm', 'from the west, m', true)}
        {number('y_mm', 'from the south, m', true)}
        {number('height_mm', 'clear height, m', true)}
        {number('aisle_pitch_mm', 'aisle to aisle, m', true)}
        {number('bay_pitch_mm', 'bay to bay, m', true)}
        <label className="field">
          <span>walk</span>
          <Pick value={block.walk} onChange={(e) => set({ walk: e.target.value as Block['walk'] })}>
            <option value="back_and_forth">back and forth</option>
            <option value="same_way">same way each</option>
          </Pick>
        </label>
        <label className="field wide3">
          <span>
            codes by the pattern: {'{zone} {aisle:02} {bay:02} {level} {slot}'}, {'{level:A}'} for letters
          </span>
          <Entry
            style={{ fontFamily: 'var(--mono)' }}
            value={block.pattern}
            onChange={(e) => set({ pattern: e.target.value.replace(/[a-z]+(?![^{]*\})/g, (t) => t.toUpperCase()) })}
          />
        </label>
      </div>
      {seen.error && (
        <p className="mark fails" style={{ whiteSpace: 'normal' }}>
          ✕ <Told text={seen.error.message} />
        </p>
      )}
      {problems.map((p) => (
        <p key={p} className="mark fails" style={{ whiteSpace: 'normal' }}>
          ✕ <Told text={p} />
        </p>
      ))}
      {first && problems.length === 0 && (
        <p>
          <span className="code">{first[0]}</span>{' '}
          {first.length > 1 && (
            <>
              to <span className="code">{first.at(-1)}</span>
            </>
          )}
          , drawn on the map in outline.
        </p>
      )}
      <Button
        variant="contained"
        onClick={() => make.mutate()}
        disabled={problems.length > 0 || !seen.data?.made || make.isPending}
      >
        {seen.data?.made
          ? `Make ${seen.data.made.toLocaleString()} ${seen.data.made === 1 ? 'bin' : 'bins'}`
          : 'Make the bins'}
      </Button>
    </>
  )
}
