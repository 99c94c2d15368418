import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { client, got, type Shape } from '../shared/client'
import { Told } from '../shared/Told'
import { Skeleton } from './BinRules'
import { DRAFT, useDraft, useEdits, useGround } from './data'

type View = Shape['SettingsView']
const WHENCE: Record<string, [string, string]> = {
  own: ['◆', 'set there'],
  site: ['▲', 'set for this site'],
  general: ['●', 'set for all sites'],
  built_in: ['○', 'as usual'],
}
const CHAPTERS: Record<string, string> = { Steps: '/steps', 'Bin rules': '/bin-rules', Scanner: '/scanner' }

/** What holds at the site, where each value comes from and what would hold otherwise; on the right, whether it agrees. */
export default function Settings({ me }: { me: Shape['Me'] }) {
  const draft = useDraft()
  const { edit } = useEdits()
  const may = me.rights.includes('edit_rulebook')
  const view = useQuery({
    queryKey: ['bench', 'settings', draft.data?.rulebook],
    enabled: !!draft.data,
    placeholderData: (before) => before,
    queryFn: () => got(client.GET('/api/drafts/{id}/settings', { params: { path: { id: DRAFT } } })),
  })
  const v = view.data
  const put = (
    setting: View['settings'][number],
    layer: View['settings'][number]['layers'][number],
    value: string | boolean | null,
  ) => {
    const says = `${setting.title}, ${layer.says}: ${layer.choices.find((c) => c.value === value)?.label ?? ''}.`
    if (v?.there.includes(layer.layer))
      edit([{ op: 'set', path: `settings/${layer.layer}/${setting.name}`, value }], says)
    else
      edit(
        [
          {
            op: 'insert',
            path: 'settings',
            value: { id: layer.layer, site: layer.layer === 'general' ? null : layer.layer, [setting.name]: value },
            at: 0,
          },
        ],
        says,
      )
  }
  return (
    <div className="page">
      <main className="main">
        <h1>Settings</h1>
        <p className="lead">
          What a plan or a flow leaves open is taken from here: what is set for the site, else for all sites. Below
          stands all that holds.
        </p>
        {view.error && <p className="empty">{view.error.message}</p>}
        {!v ? (
          <Skeleton />
        ) : (
          <>
            <table className="plain">
              <thead>
                <tr>
                  <th>Setting</th>
                  {v.settings[0]?.layers.map((l) => (
                    <th key={l.layer}>{l.says}</th>
                  ))}
                  <th>if neither says anything</th>
                </tr>
              </thead>
              <tbody>
                {v.settings.map((s) => (
                  <tr key={s.name}>
                    <td>{s.title}</td>
                    {s.layers.map((l) => (
                      <td key={l.layer}>
                        <select
                          className="select"
                          aria-label={`${s.title}, ${l.says}`}
                          disabled={!may}
                          value={String(l.value)}
                          style={{ width: 190 }}
                          onChange={(e) =>
                            put(s, l, l.choices.find((c) => String(c.value) === e.target.value)?.value ?? null)
                          }
                        >
                          {l.choices.map((c) => (
                            <option key={String(c.value)} value={String(c.value)}>
                              {c.label}
                            </option>
                          ))}
                        </select>
                      </td>
                    ))}
                    <td className="quiet">{s.built_in}</td>
                  </tr>
                ))}
              </tbody>
            </table>
            <h2 style={{ marginTop: 24 }}>What holds</h2>
            <table className="plain">
              <thead>
                <tr>
                  <th>Of</th>
                  <th>Setting</th>
                  <th>Value</th>
                  <th>From</th>
                  <th>Otherwise</th>
                </tr>
              </thead>
              <tbody>
                {v.rows.map((r, n) => {
                  const [sign, word] = WHENCE[r.level] ?? ['', r.level]
                  const same = v.rows[n - 1]?.of === r.of && v.rows[n - 1]?.chapter === r.chapter
                  return (
                    <tr key={`${r.chapter} ${r.of} ${r.setting}`}>
                      <td style={{ maxWidth: 170 }}>
                        {!same && (
                          <>
                            {r.of}{' '}
                            <Link className="link quiet" to={CHAPTERS[r.chapter] ?? '/'}>
                              {r.chapter}
                            </Link>
                          </>
                        )}
                      </td>
                      <td>{r.setting}</td>
                      <td>{r.value}</td>
                      <td style={{ whiteSpace: 'nowrap' }}>
                        <span className="mark info">{sign}</span> {word}
                      </td>
                      <td className="quiet">{r.otherwise}</td>
                    </tr>
                  )
                })}
              </tbody>
            </table>
          </>
        )}
      </main>
      <AgreementBench />
    </div>
  )
}

/** For one item, one bin and one order: all that must agree, each with what would mend it. */
function AgreementBench() {
  const ground = useGround()
  const draft = useDraft()
  const [ask, setAsk] = useState<{ item: string; bin: string; order: string }>(() => ({
    item: '',
    bin: '',
    order: '',
    ...(JSON.parse(localStorage.getItem('bench agree') ?? '{}') as object),
  }))
  const change = (some: Partial<typeof ask>) => {
    const next = { ...ask, ...some }
    localStorage.setItem('bench agree', JSON.stringify(next))
    setAsk(next)
  }
  const items = ground.data?.items ?? []
  const orders = ground.data?.orders ?? []
  const order = orders.some((o) => o.number === ask.order) ? ask.order : ''
  const item = items.find((i) => i.code === ask.item)?.code ?? orders[0]?.lines[0]?.item ?? items[0]?.code ?? ''
  const answer = useQuery({
    queryKey: ['bench', 'agreement', item, ask.bin, order, draft.data?.rulebook],
    enabled: !!draft.data && !!item,
    placeholderData: (before) => before,
    queryFn: () =>
      got(
        client.POST('/api/drafts/{id}/bench/agreement', {
          params: { path: { id: DRAFT } },
          body: { item, bin: ask.bin, order, world: null },
        }),
      ),
  })
  const bad = answer.data?.pairs.filter((p) => !p.holds).length ?? 0
  return (
    <aside className="bench" aria-label="Bench">
      <h2>
        Bench <small className="quiet">do they agree?</small>
      </h2>
      <div className="ask">
        <label className="quiet" htmlFor="agree-item">
          Item
        </label>
        <select id="agree-item" className="select" value={item} onChange={(e) => change({ item: e.target.value })}>
          {items.map((i) => (
            <option key={i.code} value={i.code}>
              {i.name}
            </option>
          ))}
        </select>
        <label className="quiet" htmlFor="agree-bin">
          Bin
        </label>
        <input
          id="agree-bin"
          className="input"
          style={{ fontFamily: 'var(--mono)' }}
          value={ask.bin}
          placeholder={answer.data?.bin ?? ''}
          onChange={(e) => change({ bin: e.target.value })}
        />
        <label className="quiet" htmlFor="agree-order">
          Order
        </label>
        <select id="agree-order" className="select" value={order} onChange={(e) => change({ order: e.target.value })}>
          <option value="">none in particular</option>
          {orders.map((o) => (
            <option key={o.number} value={o.number}>
              {o.number}, {o.partner}
            </option>
          ))}
        </select>
      </div>
      {answer.error ? (
        <p className="mark fails" style={{ whiteSpace: 'normal' }}>
          ✕ <Told text={answer.error.message} />
        </p>
      ) : (
        answer.data && (
          <>
            <p style={{ fontSize: 17, margin: '10px 0' }}>
              <span className={`mark ${bad ? 'fails' : 'holds'}`}>{bad ? '✕' : '●'}</span> {answer.data.says}
            </p>
            <ul className="agrees">
              {[...answer.data.pairs]
                .sort((a, b) => Number(a.holds) - Number(b.holds))
                .map((p) => (
                  <li key={`${p.what} ${p.says}`} style={{ padding: '4px 0' }}>
                    <span className={`mark ${p.holds ? 'holds' : 'fails'}`}>{p.holds ? '●' : '✕'}</span>{' '}
                    <span className="quiet">{p.what}</span>
                    <div style={{ paddingLeft: 18 }}>
                      <Told text={p.says} />
                    </div>
                  </li>
                ))}
            </ul>
          </>
        )
      )}
    </aside>
  )
}
