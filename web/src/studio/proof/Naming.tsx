import Button from '@mui/material/Button'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import MenuItem from '@mui/material/MenuItem'
import TextField from '@mui/material/TextField'
import { useMutation, useQuery } from '@tanstack/react-query'
import { useContext, useState } from 'react'
import { useForm, useWatch } from 'react-hook-form'
import { client, got, type Shape } from '../../shared/client'
import { chooseDraft, Say, useGroundHead } from '../parts/data'
import { Notes } from '../parts/Notes'
import { Sheet } from '../parts/Sheet'
import { Tick } from '../parts/controls'

type Head = Shape['DraftHead']

/** Asks what a copy of a draft is called and which site it is for, or how a draft is to be called from now on. */
export function Naming({
  draft,
  what,
  close,
  again,
}: {
  draft: Head
  what: 'copy' | 'rename'
  close: () => void
  again: () => void
}) {
  const copies = what === 'copy'
  const sites = useGroundHead().data?.sites ?? []
  const { register, handleSubmit, control, setValue, formState } = useForm({
    defaultValues: { name: copies ? `${draft.name}, another` : draft.name, to: draft.site, bare: false },
  })
  const [to, bare] = useWatch({ control, name: ['to', 'bare'] })
  const elsewhere = copies && to !== draft.site
  const lost = useQuery({
    queryKey: ['lost', draft.id, draft.version, to],
    enabled: elsewhere && !bare,
    queryFn: () => got(client.GET('/api/drafts/{id}/lost', { params: { path: { id: draft.id }, query: { to } } })),
  })
  const keep = useMutation({
    mutationFn: async ({ name }: { name: string }): Promise<string> => {
      const body = { of: draft.id, name, to: elsewhere ? to : '', bare }
      if (copies) return (await got(client.POST('/api/drafts', { body }))).id
      await got(client.PUT('/api/drafts/{id}', { params: { path: { id: draft.id } }, body: { name } }))
      return ''
    },
    onSuccess: (made) => {
      if (made) {
        chooseDraft(made)
        location.assign('/drafts')
      }
      again()
      close()
    },
  })
  const title = copies ? `Copy ${draft.name}` : `Rename ${draft.name}`
  const wrong = formState.errors.name?.message ?? keep.error?.message
  return (
    <Sheet open onClose={close} label={title} fullWidth maxWidth="sm">
      <form onSubmit={(e) => void handleSubmit((said) => keep.mutate(said))(e)}>
        <DialogTitle>{title}</DialogTitle>
        <DialogContent>
          <TextField
            autoFocus
            fullWidth
            margin="dense"
            label="Called"
            error={!!wrong}
            helperText={wrong ?? (copies ? 'You work on the copy from then on.' : ' ')}
            {...register('name', { validate: (name) => name.trim() !== '' || 'A draft has a name.' })}
            slotProps={{ htmlInput: { maxLength: 80 } }}
          />
          {copies && sites.length > 1 && (
            <TextField
              select
              fullWidth
              margin="dense"
              label="For the site"
              value={to}
              onChange={(e) => setValue('to', e.target.value)}
            >
              {sites.map((s) => (
                <MenuItem key={s.code} value={s.code}>
                  {s.name}
                </MenuItem>
              ))}
            </TextField>
          )}
          {copies && (
            <label className="tick">
              <Tick checked={bare} onChange={(e) => setValue('bare', e.target.checked)} /> with no rules in it
            </label>
          )}
          {elsewhere && !bare && lost.data && (
            <div role="status">
              <p className="quiet">
                {lost.data.lost.length === 0
                  ? 'All of it can go along.'
                  : 'What cannot go along, and is to be said anew there; it stands among the findings of the copy:'}
              </p>
              <div className="follows">
                <Notes notes={lost.data.lost} />
              </div>
            </div>
          )}
          {elsewhere && lost.error && <p className="mark fails">{lost.error.message}</p>}
        </DialogContent>
        <DialogActions>
          <Button onClick={close}>Leave it</Button>
          <Button type="submit" variant="contained" disabled={keep.isPending}>
            {copies ? 'Copy' : 'Rename'}
          </Button>
        </DialogActions>
      </form>
    </Sheet>
  )
}

/** Brings a rulebook file in as a draft's own rules. It is one more step of the draft, which can be taken back. */
export function BringRules({ draft, close, again }: { draft: Head; close: () => void; again: () => void }) {
  const say = useContext(Say)
  const [file, setFile] = useState<File | null>(null)
  const bring = useMutation({
    mutationFn: async () => {
      const text = (await file?.text()) ?? ''
      const params = { path: { id: draft.id } }
      return got(client.PUT('/api/drafts/{id}/file', { params, body: { version: draft.version, text } }))
    },
    onSuccess: () => {
      again()
      close()
      say(`${file?.name ?? 'A file'} was brought in; Undo takes it back.`, [], true)
    },
  })
  return (
    <Sheet open onClose={close} label={`Bring a file into ${draft.name}`} fullWidth maxWidth="xs">
      <DialogTitle>Bring a file into {draft.name}</DialogTitle>
      <DialogContent>
        <p className="quiet">
          A rulebook file, as <i>Save as a file</i> writes it. Its rules take the place of the draft’s own; what holds
          for all sites stays. Undo takes it back.
        </p>
        <Button component="label">
          {file ? file.name : 'Choose a file'}
          <input
            type="file"
            hidden
            accept=".json,.yaml,.yml"
            aria-label="Rulebook file"
            onChange={(e) => {
              bring.reset()
              setFile(e.target.files?.[0] ?? null)
            }}
          />
        </Button>
        {bring.error && (
          <p className="mark fails" role="alert">
            ✕ {bring.error.message}
          </p>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Leave it</Button>
        <Button variant="contained" disabled={!file || bring.isPending} onClick={() => bring.mutate()}>
          Bring it in
        </Button>
      </DialogActions>
    </Sheet>
  )
}
