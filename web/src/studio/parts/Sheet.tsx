import Dialog, { type DialogProps } from '@mui/material/Dialog'

/** A dialog with a name of its own, for those who hear the screen rather than see it. */
export function Sheet({ label, children, ...props }: DialogProps & { label: string }) {
  return (
    <Dialog {...props} slotProps={{ paper: { 'aria-label': label } }}>
      {children}
    </Dialog>
  )
}
