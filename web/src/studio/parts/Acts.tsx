import Button from '@mui/material/Button'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import { useContext, useState } from 'react'
import { client, got, type Shape } from '../../shared/client'
import { DRAFT, type Edit, Say, useDraft } from './data'
import { Effects } from './Effects'
import { Sheet } from './Sheet'
import { Notes } from './Notes'

type Act = Shape['Act']

/** What can be done with a row. Where others may hang on it, what would follow is shown before. */
export function Acts({ acts, put }: { acts: Act[]; put: (edits: Edit[], told: string, looked?: boolean) => void }) {
  const draft = useDraft()
  const say = useContext(Say)
  const [asked, setAsked] = useState<{ act: Act; follows: Shape['Note'][]; effects: string[] } | null>(null)
  const begin = (act: Act) => {
    const edits = act.edits as Edit[]
    if (!act.look) return put(edits, act.told)
    const body = { version: draft.data?.version ?? 0, edits: act.edits as Shape['EditBody'][], says: '', look: true }
    got(client.POST('/api/drafts/{id}/edits', { params: { path: { id: DRAFT } }, body })).then(
      ({ follows, effects }) =>
        follows.length || effects.length ? setAsked({ act, follows, effects }) : put(edits, act.told, true),
      (error: Error) => say(error.message),
    )
  }
  return (
    <>
      {acts.map((act) => (
        <button key={act.id} className="link" onClick={() => begin(act)}>
          {act.says}
        </button>
      ))}
      {asked && (
        <Sheet open onClose={() => setAsked(null)} label="What would follow">
          <DialogTitle>What would follow</DialogTitle>
          <DialogContent>
            <p className="quiet">{asked.act.told.replace(/ (was|were) /, ' would be ').replace(/\.$/, '')}. Then:</p>
            <Effects effects={asked.effects} />
            <div className="follows">
              <Notes notes={asked.follows} />
            </div>
          </DialogContent>
          <DialogActions>
            <Button autoFocus onClick={() => setAsked(null)}>
              Leave it
            </Button>
            <Button
              onClick={() => {
                put(asked.act.edits as Edit[], asked.act.told, true)
                setAsked(null)
              }}
            >
              {asked.act.says} all the same
            </Button>
          </DialogActions>
        </Sheet>
      )}
    </>
  )
}
