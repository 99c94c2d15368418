import { useState } from 'react'
import { keepScanner, scanner, useCame, type Scanner } from './scanner'
import { keepSilent, mayCamera, signal, silent } from './signals'

const COMES: [Scanner['comes'], string, string][] = [
  ['keys', 'Key by key, fast', 'its pace tells it from typing'],
  ['whole', 'All of it at once', 'typing comes key by key'],
  ['marked', 'With marks before it', 'nothing without them counts as scanned'],
]

/** What this device is and has: how its scanner gives codes, sound, camera. */
export function Device({ id, close }: { id: string; close: () => void }) {
  const [how, setHow] = useState(scanner)
  const [quiet, setQuiet] = useState(silent)
  const [text, setText] = useState('')
  const [saw, setSaw] = useState('')
  const came = useCame()
  const keep = (now: Scanner) => {
    setHow(now)
    keepScanner(now)
  }
  const taken = () => {
    const got = came.taken(text, how)
    setText('')
    setSaw(
      got.how === 'scanned'
        ? `Scanned: ${got.text}`
        : `Typed: ${got.text}. If you scanned it, choose below how it comes.`,
    )
    if (got.how === 'typed' && got.came.whole && got.came.strokes.length === 0) {
      keep({ comes: 'whole', mark: '' })
      setSaw(`It came all at once, and counts as scanned from now on: ${got.text}`)
    }
  }
  return (
    <main className="hs">
      <div className="hs-top">
        <span>This device</span>
        <span>{id}</span>
      </div>
      <div className="hs-body">
        <h1>How does its scanner give a code?</h1>
        <form
          className="hs-scan"
          onSubmit={(e) => {
            e.preventDefault()
            taken()
          }}
        >
          <input
            autoFocus
            value={text}
            onChange={(e) => {
              came.became(e.target.value, text)
              setText(e.target.value)
            }}
            onKeyDown={(e) => {
              came.onKeyDown(e)
              if (e.key === 'Tab' && text) {
                e.preventDefault()
                taken()
              }
            }}
            aria-label="Scan something to try it"
            placeholder="scan something to try it"
            autoComplete="off"
          />
          <button className="hs-btn plain" type="submit" aria-label="Enter">
            ↵
          </button>
        </form>
        <p className="hs-note" role="status">
          {saw || 'A Tab after a code, or the mark of its symbology before it, always counts as scanned.'}
        </p>
        <div className="hs-picks" role="group" aria-label="How codes come">
          {COMES.map(([comes, says, note]) => (
            <button
              key={comes}
              className="hs-pick"
              aria-pressed={how.comes === comes}
              onClick={() => keep({ ...how, comes })}
            >
              {how.comes === comes ? '● ' : '○ '}
              {says}
              <span>{note}</span>
            </button>
          ))}
        </div>
        {how.comes === 'marked' && (
          <label className="hs-note">
            The mark, as it stands before every code{' '}
            <span className="hs-scan">
              <input value={how.mark} maxLength={8} onChange={(e) => keep({ ...how, mark: e.target.value })} />
            </span>
          </label>
        )}
        <div className="hs-picks">
          <button
            className="hs-pick"
            aria-pressed={!quiet}
            onClick={() => {
              keepSilent(!quiet)
              setQuiet(!quiet)
              signal(true)
            }}
          >
            {quiet ? 'Sound is off' : 'Sound is on'}
            <span>{signal.says()}</span>
          </button>
        </div>
        <p className="hs-note">{mayCamera() ? 'Its camera can scan: the button stands beside the box.' : NO_CAMERA}</p>
      </div>
      <div className="hs-row">
        <button className="hs-btn" onClick={close}>
          Back
        </button>
      </div>
    </main>
  )
}

const NO_CAMERA = 'Its camera cannot be used: the browser gives it only to pages that came over a secure connection.'
