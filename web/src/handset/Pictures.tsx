import { useRef, useState } from 'react'
import { sent, type Shape } from '../shared/client'

/** The picture of an item; where there is none, nothing stands there. */
export function Picture({ name }: { name: string }) {
  const [missing, setMissing] = useState(false)
  if (missing) return null
  return (
    <img
      className="hs-picture"
      src={`/api/pictures/${encodeURIComponent(name)}`}
      alt=""
      onError={() => setMissing(true)}
    />
  )
}

/** A photo of what is seen, taken with the phone or brought in; what is none is refused in words, and nothing else is lost. */
export function Photo({ taken, again }: { taken: (name: string) => void; again: boolean }) {
  const file = useRef<HTMLInputElement>(null)
  const [says, setSays] = useState('')
  const bring = (chosen: File) => {
    const form = new FormData()
    form.set('file', chosen)
    setSays('The photo is on its way.')
    sent<Shape['Taken']>('/api/photos', form).then(
      (made) => {
        setSays('')
        taken(made.name)
      },
      (trouble: Error) => setSays(`✕ ${trouble.message} Take another, or go on without one.`),
    )
  }
  return (
    <>
      <input
        ref={file}
        type="file"
        accept="image/*"
        capture="environment"
        aria-label="A photo of it"
        style={{ display: 'none' }}
        onChange={(e) => {
          const chosen = e.target.files?.[0]
          if (chosen) bring(chosen)
          e.target.value = ''
        }}
      />
      <div className="hs-row">
        <button className="hs-btn" type="button" onClick={() => file.current?.click()}>
          {again ? 'Another photo' : 'Take a photo'}
        </button>
      </div>
      {says && (
        <p className="hs-note" role="alert">
          {says}
        </p>
      )}
    </>
  )
}
