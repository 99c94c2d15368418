import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { got, type Shape } from '../shared/client'
import { Told } from '../shared/Told'
import { useGroundChange } from './data'

type Answer = Shape['Amended']

/** Multipart goes by fetch: the typed client writes JSON. */
async function sent(path: string, form: FormData): Promise<Response> {
  return fetch(path, { method: 'POST', body: form, headers: { 'X-Mindful-Crate': '1' } })
}

/** Files brought in: what they would change and everything wrong with them first, then the change itself. */
export function BringIn({ site, no, close }: { site: string; no: number; close: () => void }) {
  const change = useGroundChange()
  const [files, setFiles] = useState<File[]>([])
  const [whole, setWhole] = useState(false)
  const form = (more: Record<string, string>) => {
    const made = new FormData()
    for (const file of files) made.append('files', file)
    for (const [k, v] of Object.entries({ base: String(no), site, whole: String(whole), ...more })) made.append(k, v)
    return made
  }
  const look = useMutation({
    mutationFn: async (more: Record<string, string>) => {
      const response = await sent('/api/ground/files', form(more))
      return got<Answer>(response.json().then((body: unknown) => (response.ok ? { data: body as Answer, response } : { error: body, response })))
    },
    onSuccess: (answer) => {
      if (answer.applied) {
        change.amended(answer)
        close()
      }
    },
  })
  const wrong = useMutation({
    mutationFn: async () => {
      const response = await sent('/api/ground/files/errors', form({}))
      const url = URL.createObjectURL(await response.blob())
      const link = document.createElement('a')
      link.href = url
      link.download = 'wrong.csv'
      link.click()
      URL.revokeObjectURL(url)
    },
  })
  const take = (chosen: File[], wholeNow = whole) => {
    setFiles(chosen)
    if (chosen.length) {
      setWhole(wholeNow)
      setTimeout(() => look.mutate({}))
    }
  }
  const found = look.data
  const idle = found !== undefined && found.changes.every((c) => c.new + c.changed + c.gone === 0)
  return (
    <Dialog open onClose={close} fullWidth maxWidth="md" aria-label="Bring files in">
      <div className="bring">
        <h2>Bring files in</h2>
        <p className="quiet">
          CSV files named for what they hold (<span className="code">bins.csv</span>, <span className="code">items.csv</span> with <span className="code">units.csv</span>, <span className="code">orders.csv</span> with{' '}
          <span className="code">order_lines.csv</span>, <span className="code">stock.csv</span> …), or an XLSX workbook with a sheet for each. Nothing changes before you have seen what would.
        </p>
        <label
          className="drop"
          onDragOver={(e) => e.preventDefault()}
          onDrop={(e) => {
            e.preventDefault()
            take([...e.dataTransfer.files])
          }}
        >
          <input type="file" multiple accept=".csv,.xlsx,.txt" aria-label="Files" onChange={(e) => take([...(e.target.files ?? [])])} />
          {files.length === 0 && <span>Drop files here, or choose them</span>}
        </label>
        <label className="ticks">
          <input type="checkbox" checked={whole} onChange={() => { setWhole(!whole); if (files.length) setTimeout(() => look.mutate({})) }} />
          <span>these are all there are: what is not in a file goes (of this site, where the rows are a site’s own)</span>
        </label>
        {look.isPending && <p className="quiet">Reading …</p>}
        {look.error && <p className="mark fails" style={{ whiteSpace: 'normal' }}>✕ <Told text={look.error.message} /></p>}
        {found && (
          <>
            <table className="plain">
              <thead>
                <tr>
                  <th>Would change</th>
                  <th style={{ textAlign: 'right' }}>new</th>
                  <th style={{ textAlign: 'right' }}>changed</th>
                  <th style={{ textAlign: 'right' }}>gone</th>
                  <th style={{ textAlign: 'right' }}>the same</th>
                  <th>for example</th>
                </tr>
              </thead>
              <tbody>
                {found.changes.map((c) => (
                  <tr key={c.table}>
                    <td>{c.many}</td>
                    <td className="num">{c.new.toLocaleString()}</td>
                    <td className="num">{c.changed.toLocaleString()}</td>
                    <td className="num">{c.gone.toLocaleString()}</td>
                    <td className="num">{c.same.toLocaleString()}</td>
                    <td className="mono">{[...c.some_new, ...c.some_changed, ...c.some_gone].slice(0, 3).join('; ')}</td>
                  </tr>
                ))}
              </tbody>
            </table>
            {found.bad.length > 0 && (
              <>
                <p className="mark fails">
                  ✕ {found.bad_rows.toLocaleString()} of {found.rows.toLocaleString()} rows will not do{' '}
                  <button className="link" onClick={() => wrong.mutate()}>
                    all {found.bad_cells.toLocaleString()} reasons as a file
                  </button>
                </p>
                <div className="wrongs">
                  <table className="plain">
                    <thead>
                      <tr>
                        <th>File</th>
                        <th>line</th>
                        <th>column</th>
                        <th>there stands</th>
                        <th>why not</th>
                      </tr>
                    </thead>
                    <tbody>
                      {found.bad.map((b, n) => (
                        <tr key={n}>
                          <td>{b.file}</td>
                          <td className="num">{b.line || ''}</td>
                          <td className="mono">{b.column}</td>
                          <td className="mono">{b.value}</td>
                          <td>
                            <Told text={b.says} />
                          </td>
                        </tr>
                      ))}
                    </tbody>
                  </table>
                </div>
              </>
            )}
          </>
        )}
        <div className="form">
          <Button variant="contained" disabled={!found || found.bad.length > 0 || idle || look.isPending} onClick={() => look.mutate({ apply: 'true' })}>
            Take it all
          </Button>
          {found && found.bad.length > 0 && (
            <Button disabled={idle || look.isPending} onClick={() => look.mutate({ apply: 'true', good: 'true' })}>
              Take the {found.rows - found.bad_rows === 1 ? 'good row' : `${(found.rows - found.bad_rows).toLocaleString()} good rows`}
            </Button>
          )}
          <Button onClick={close}>Close</Button>
          {idle && found.bad.length === 0 && <span className="quiet">Everything in these files is there already.</span>}
        </div>
      </div>
    </Dialog>
  )
}
