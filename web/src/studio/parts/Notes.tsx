import type { Shape } from '../../shared/client'
import { Told } from '../../shared/Told'

type Note = Shape['Note']
const SIGN: Record<Note['mark'], string> = {
  holds: '✓ better',
  doubt: '▲ doubt',
  stops: '■ stops',
  information: '',
}

/** What is said of a row: facts quietly, findings each with its mark and word. */
export function Notes({ notes }: { notes: Note[] }) {
  return notes.map((note) =>
    note.mark === 'information' ? (
      <span key={note.says}>
        <Told text={note.says} />
      </span>
    ) : (
      <span
        key={note.path + note.says}
        className={`finding ${note.mark === 'stops' ? 'blocks' : note.mark}`}
        tabIndex={-1}
      >
        <b>{SIGN[note.mark]}</b> <Told text={note.says} />
      </span>
    ),
  )
}
