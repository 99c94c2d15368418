import { CHAPTERS } from './chapters'
import { Sheet } from '../parts/Sheet'

const KEYS: (readonly [string, string])[] = [
  ['Tab', 'from live word to live word'],
  ['Enter', 'edit the live word; Escape leaves it; typing filters'],
  ['Alt ↑  Alt ↓', 'move the rule up or down'],
  ['Ctrl Z  Ctrl Shift Z', 'undo, redo'],
  ['.', 'next finding'],
  ['b', 'fold the bench away, or bring it back'],
  ['h', 'the handset, on Scanner’s bench'],
  ...CHAPTERS.flatMap(({ chapters }) => chapters.map(([name, , key]) => [`g then ${key}`, name] as const)),
  ['/ or Ctrl K', 'search or jump'],
  ['?', 'this list'],
]

export function Keys({ open, close }: { open: boolean; close: () => void }) {
  return (
    <Sheet open={open} onClose={close} label="Keys">
      <div style={{ padding: 20, overflowY: 'auto' }} tabIndex={0}>
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
    </Sheet>
  )
}
