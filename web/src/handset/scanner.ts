import { useRef } from 'react'

export type How = 'scanned' | 'typed' | 'tapped'

/**
 * How the scanner of this device gives a code: key by key, faster than anybody types; all of it at once; or with marks of its own
 * before it. A Tab after it, or the mark of its symbology before it (ISO/IEC 15424), says in every case that it was scanned.
 */
export type Scanner = { comes: 'keys' | 'whole' | 'marked'; mark: string }

const PACE_MS = 35
const SYMBOLOGY = /^\][A-Za-z][0-9A-Fa-f]/
const PLACE = 'scanner of this device'

export function scanner(): Scanner {
  const kept = localStorage.getItem(PLACE)
  return kept ? (JSON.parse(kept) as Scanner) : { comes: 'keys', mark: '' }
}

export function keepScanner(how: Scanner): void {
  localStorage.setItem(PLACE, JSON.stringify(how))
}

/** What came into a box, stroke by stroke. */
export type Came = { strokes: number[]; whole: boolean }

/** Was a text scanned, and what is the code without its marks? `end` is when it was ended, and with which key. */
export function judged(
  text: string,
  came: Came,
  end: { at: number; key: 'Enter' | 'Tab' | '' },
  by: Scanner,
): { text: string; how: How } {
  const marked = by.comes === 'marked' && by.mark !== '' && text.startsWith(by.mark)
  if (marked) return { text: text.slice(by.mark.length), how: 'scanned' }
  if (SYMBOLOGY.test(text)) return { text: text.slice(3), how: 'scanned' }
  if (end.key === 'Tab') return { text, how: 'scanned' }
  if (by.comes === 'whole') return { text, how: came.whole && came.strokes.length === 0 ? 'scanned' : 'typed' }
  if (by.comes === 'marked') return { text, how: 'typed' }
  const all = [...came.strokes, end.at]
  const fast = all.every((at, n) => n === 0 || at - (all[n - 1] ?? 0) < PACE_MS)
  return { text, how: end.key === 'Enter' && came.strokes.length === text.length && fast ? 'scanned' : 'typed' }
}

/** Watches how a text comes into a box. */
export function useCame() {
  const came = useRef<Came>({ strokes: [], whole: false })
  const end = useRef<{ at: number; key: 'Enter' | 'Tab' | '' }>({ at: 0, key: '' })
  return {
    onKeyDown: (e: { key: string; ctrlKey: boolean; metaKey: boolean; timeStamp: number }) => {
      if (e.key.length === 1 && !e.ctrlKey && !e.metaKey) came.current.strokes.push(e.timeStamp)
      else if (e.key === 'Backspace') came.current.strokes = []
      else if (e.key === 'Enter' || e.key === 'Tab') end.current = { at: e.timeStamp, key: e.key }
    },
    /** The box holds this now. */
    became: (text: string, before: string) => {
      if (text.length > before.length + 1) came.current.whole = true
      if (text === '') came.current = { strokes: [], whole: false }
    },
    /** It is ended: was it scanned? */
    taken: (text: string, by: Scanner = scanner()) => {
      const found = judged(text, came.current, end.current, by)
      const how = { ...came.current }
      came.current = { strokes: [], whole: false }
      end.current = { at: 0, key: '' }
      return { ...found, came: how }
    },
  }
}
