import Dialog from '@mui/material/Dialog'

const KEYS = [
  ['Tab', 'from live word to live word'],
  ['Enter', 'edit the live word; Escape leaves it; typing filters'],
  ['Alt ↑  Alt ↓', 'move the rule up or down'],
  ['Ctrl Z  Ctrl Shift Z', 'undo, redo'],
  ['.', 'next finding'],
  ['b', 'fold the bench away, or bring it back'],
  ['h', 'the handset'],
  ['g then s, b, c, r, t', 'Steps, Bin rules, Scanner, Rehearsals, Stock'],
  ['/ or Ctrl K', 'search or jump'],
  ['?', 'this list'],
]

export function Keys({ open, close }: { open: boolean; close: () => void }) {
  return (
    <Dialog open={open} onClose={close} aria-label="Keys">
      <div style={{ padding: 20 }}>
        <h2 style={{ marginTop: 0 }}>Keys</h2>
        <table className="plain">
          <tbody>
            {KEYS.map(([key, does]) => (
              <tr key={key}>
                <td className="mono">{key}</td>
                <td>{does}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </Dialog>
  )
}
