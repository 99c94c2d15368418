import Button from '@mui/material/Button'
import { useMutation } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { sent, type Shape } from '../../shared/client'

/** The picture of an item: seen, brought in, taken off. It is kept under the item's code unless it has a name already. */
export function PictureField({
  suggested,
  name,
  mayEdit,
  set,
}: {
  suggested: string
  name: string
  mayEdit: boolean
  set: (name: string) => void
}) {
  const file = useRef<HTMLInputElement>(null)
  const [at, setAt] = useState(0)
  const [missing, setMissing] = useState('')
  const bring = useMutation({
    mutationFn: (chosen: File) => {
      const form = new FormData()
      form.set('name', name || suggested)
      form.set('file', chosen)
      return sent<Shape['Taken']>('/api/pictures', form)
    },
    onSuccess: (taken) => {
      set(taken.name)
      setMissing('')
      setAt((n) => n + 1)
    },
  })
  return (
    <div className="labels" style={{ alignItems: 'center' }}>
      {name && missing !== name ? (
        <img
          key={`${name} ${at}`}
          src={`/api/pictures/${encodeURIComponent(name)}?${at}`}
          alt={`picture ${name}`}
          style={{ maxHeight: 120 }}
          onError={() => setMissing(name)}
        />
      ) : (
        <span className="quiet">{name ? `There is no picture called ${name} yet.` : 'No picture.'}</span>
      )}
      {mayEdit && (
        <div className="form" style={{ margin: 0 }}>
          <input
            ref={file}
            type="file"
            accept="image/*"
            aria-label="A picture from a file"
            style={{ display: 'none' }}
            onChange={(e) => {
              const chosen = e.target.files?.[0]
              if (chosen) bring.mutate(chosen)
              e.target.value = ''
            }}
          />
          <Button disabled={bring.isPending || !(name || suggested)} onClick={() => file.current?.click()}>
            {name ? 'Another picture' : 'Bring a picture in'}
          </Button>
          {name && <Button onClick={() => set('')}>Without a picture</Button>}
        </div>
      )}
      {bring.error && (
        <p className="mark fails" style={{ whiteSpace: 'normal' }}>
          ✕ {bring.error.message}
        </p>
      )}
    </div>
  )
}
