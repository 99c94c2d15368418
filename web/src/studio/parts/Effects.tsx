import Button from '@mui/material/Button'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import { Told } from '../../shared/Told'
import { Sheet } from './Sheet'

/** What becomes of open orders, of goods and of what is under way. */
export function Effects({ effects }: { effects: string[] }) {
  if (effects.length === 0) return null
  return (
    <ul className="effects">
      {effects.map((says) => (
        <li key={says}>
          <Told text={says} />
        </li>
      ))}
    </ul>
  )
}

/** Says what a change has for an effect before it is saved. */
export function EffectsFirst({ effects, save, close }: { effects: string[]; save: () => void; close: () => void }) {
  return (
    <Sheet open onClose={close} label="What this changes">
      <DialogTitle>What this changes</DialogTitle>
      <DialogContent>
        <Effects effects={effects} />
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Leave it</Button>
        <Button
          autoFocus
          variant="contained"
          onClick={() => {
            save()
            close()
          }}
        >
          Save it
        </Button>
      </DialogActions>
    </Sheet>
  )
}
