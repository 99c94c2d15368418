import Tooltip from '@mui/material/Tooltip'
import Button from '@mui/material/Button'
import LinearProgress from '@mui/material/LinearProgress'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { client, got, sent, type Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { when } from '../../shared/when'
import { useGroundChange } from '../parts/data'
import { Sheet } from '../parts/Sheet'
import { Tick } from '../parts/controls'

type Import = Shape['ImportView']
const MOST = 512_000_000

/** Files brought in: what they would change and everything wrong with them first, then the change itself. Much of it is
 * read by a worker, which says how far it is. */
export function BringIn({ site, close }: { site: string; close: () => void }) {
  const change = useGroundChange()
  const queries = useQueryClient()
  const [files, setFiles] = useState<File[]>([])
  const [whole, setWhole] = useState(false)
  const [id, setId] = useState('')
  const now = useQuery({
    queryKey: ['import', id],
    queryFn: () => got(client.GET('/api/ground/imports/{id}', { params: { path: { id } } })),
    enabled: id !== '',
  })
  const left = useQuery({ queryKey: ['import', 'open'], queryFn: () => got(client.GET('/api/ground/imports')) })
  const look = useMutation({
    mutationFn: (chosen: { files: File[]; whole: boolean }) => {
      const size = chosen.files.reduce((sum, f) => sum + f.size, 0)
      if (size > MOST)
        throw new Error(
          `That is ${Math.round(size / 1e6).toLocaleString()} MB; at most ${MOST / 1e6} are taken at once. Bring it in parts.`,
        )
      const form = new FormData()
      for (const file of chosen.files) form.append('files', file)
      form.append('site', site)
      form.append('whole', String(chosen.whole))
      return sent<Import>('/api/ground/imports', form)
    },
    onSuccess: (made) => {
      queries.setQueryData(['import', made.id], made)
      setId(made.id)
    },
  })
  const take = useMutation({
    mutationFn: (good: boolean) =>
      got(client.POST('/api/ground/imports/{id}/take', { params: { path: { id } }, body: { good } })),
    onSuccess: (answer) => change.amended(answer).then(close),
  })
  const leave = useMutation({
    mutationFn: () => got(client.POST('/api/ground/imports/{id}/cancel', { params: { path: { id } } })),
    onSuccess: (gone) => queries.setQueryData(['import', gone.id], gone),
  })
  const choose = (chosen: File[], wholeNow = whole) => {
    setFiles(chosen)
    setWhole(wholeNow)
    if (chosen.length === 0) return
    if (id) leave.mutate() // what was brought before is not wanted any more
    setId('')
    take.reset()
    look.mutate({ files: chosen, whole: wholeNow })
  }
  const state = id ? now.data : undefined
  const found = state?.state === 'read' ? state : undefined
  const busy = look.isPending || state?.state === 'waiting' || state?.state === 'reading'
  const error = look.error ?? take.error ?? leave.error ?? now.error
  const idle = found !== undefined && found.changes.every((c) => c.new + c.changed + c.gone === 0)
  return (
    <Sheet open onClose={close} fullWidth maxWidth="md" label="Bring files in">
      <div className="bring">
        <h2>Bring files in</h2>
        <p className="quiet">
          CSV files named for what they hold (<span className="code">bins.csv</span>,{' '}
          <span className="code">items.csv</span> with <span className="code">units.csv</span>,{' '}
          <span className="code">orders.csv</span> with <span className="code">order_lines.csv</span>,{' '}
          <span className="code">stock.csv</span> …), or an XLSX workbook with a sheet for each. Nothing changes before
          you have seen what would. A few thousand rows are read at once; more by a worker, up to 512 MB.
        </p>
        <label
          className="drop"
          onDragOver={(e) => e.preventDefault()}
          onDrop={(e) => {
            e.preventDefault()
            choose([...e.dataTransfer.files])
          }}
        >
          <input
            type="file"
            multiple
            accept=".csv,.xlsx,.txt"
            aria-label="Files"
            onChange={(e) => choose([...(e.target.files ?? [])])}
          />
          {files.length === 0 && <span>Drop files here, or choose them</span>}
        </label>
        {id === '' &&
          !look.isPending &&
          left.data?.imports.map((l) => (
            <p key={l.id} className="quiet">
              <span className="code">{l.names.join(', ')}</span> of {when(l.made_at)}:{' '}
              {l.state === 'read' ? `${l.rows.toLocaleString()} rows read, not taken yet` : 'not read through yet'}.{' '}
              <button className="link" onClick={() => setId(l.id)}>
                Look at it
              </button>
            </p>
          ))}
        <label className="ticks">
          <Tick checked={whole} onChange={() => choose(files, !whole)} />
          <span>
            these are all there are: what is not in a file goes (of this site, where the rows are a site’s own)
          </span>
        </label>
        {busy && (
          <div className="progress" role="status">
            <LinearProgress
              variant={state && state.share > 0 ? 'determinate' : 'indeterminate'}
              value={(state?.share ?? 0) * 100}
              aria-label="How much has been read"
            />
            <span>
              {look.isPending
                ? 'Sending …'
                : state?.state === 'waiting'
                  ? 'Waiting for a worker. This may be closed; it goes on.'
                  : `${(state?.rows ?? 0).toLocaleString()} rows read`}
            </span>
            {id !== '' && (
              <Button size="small" onClick={() => leave.mutate()}>
                Cancel
              </Button>
            )}
          </div>
        )}
        {state?.state === 'cancelled' && <p className="quiet">Cancelled. Nothing was changed.</p>}
        {state?.state === 'failed' && (
          <p className="mark fails" style={{ whiteSpace: 'normal' }}>
            ✕ <Told text={state.says} />
          </p>
        )}
        {error && (
          <p className="mark fails" style={{ whiteSpace: 'normal' }}>
            ✕ <Told text={error.message} />
          </p>
        )}
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
                    <td style={{ whiteSpace: 'nowrap' }}>{c.many}</td>
                    <td className="num">{c.new.toLocaleString()}</td>
                    <td className="num">{c.changed.toLocaleString()}</td>
                    <td className="num">{c.gone.toLocaleString()}</td>
                    <td className="num">{c.same.toLocaleString()}</td>
                    <Tooltip title={[...c.some_new, ...c.some_changed, ...c.some_gone].join('; ')} describeChild>
                      <td className="mono cut">
                        {[...c.some_new, ...c.some_changed, ...c.some_gone].slice(0, 3).join('; ')}
                      </td>
                    </Tooltip>
                  </tr>
                ))}
              </tbody>
            </table>
            {found.bad.length > 0 && (
              <>
                <p className="mark fails">
                  ✕ {found.bad_rows.toLocaleString()} of {found.rows.toLocaleString()} rows will not do{' '}
                  <a className="link" href={`/api/ground/imports/${id}/reasons`} download="wrong.csv">
                    all {found.bad_cells.toLocaleString()} reasons as a file
                  </a>
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
          <Button
            variant="contained"
            disabled={!found || found.bad.length > 0 || idle || take.isPending}
            onClick={() => take.mutate(false)}
          >
            Take it all
          </Button>
          {found && found.bad.length > 0 && (
            <Button disabled={idle || take.isPending} onClick={() => take.mutate(true)}>
              Take the{' '}
              {found.rows - found.bad_rows === 1
                ? 'good row'
                : `${(found.rows - found.bad_rows).toLocaleString()} good rows`}
            </Button>
          )}
          <Button onClick={close}>Close</Button>
          {idle && found.bad.length === 0 && <span className="quiet">Everything in these files is there already.</span>}
        </div>
      </div>
    </Sheet>
  )
}
