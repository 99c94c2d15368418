import { useEffect, useRef, useState } from 'react'
import { prepareZXingModule, readBarcodes } from 'zxing-wasm/reader'
import wasm from 'zxing-wasm/reader/zxing_reader.wasm?url'

prepareZXingModule({
  overrides: { locateFile: (path: string, from: string) => (path.endsWith('.wasm') ? wasm : from + path) },
})

const EVERY_MS = 120
/** The same code is taken again after so long, or once another was seen. */
const AGAIN_MS = 2500

const SAYS: Record<string, string> = {
  NotAllowedError: 'The camera was refused. Allow it for this page in the browser, or scan and type as before.',
  NotFoundError: 'This device has no camera. Scan and type as before.',
  NotReadableError: 'Another program uses the camera. Close it, or scan and type as before.',
}

/** The camera as a scanner: what it sees is scanned, one code after another. */
export default function Camera({ found, close }: { found: (text: string) => void; close: () => void }) {
  const video = useRef<HTMLVideoElement>(null)
  const [says, setSays] = useState('')
  const last = useRef({ text: '', at: 0 })
  const take = useRef(found)
  useEffect(() => {
    take.current = found
  }, [found])
  useEffect(() => {
    let over = false
    let stream: MediaStream | undefined
    let timer: ReturnType<typeof setTimeout> | undefined
    const canvas = document.createElement('canvas')
    const look = async () => {
      const seen = video.current
      if (over || !seen) return
      if (seen.videoWidth > 0) {
        canvas.width = seen.videoWidth
        canvas.height = seen.videoHeight
        const pen = canvas.getContext('2d', { willReadFrequently: true })
        pen?.drawImage(seen, 0, 0)
        const picture = pen?.getImageData(0, 0, canvas.width, canvas.height)
        const codes = picture ? await readBarcodes(picture, { tryHarder: true, maxNumberOfSymbols: 1 }) : []
        const text = codes.find((c) => c.isValid)?.text
        const now = performance.now()
        if (text && (text !== last.current.text || now - last.current.at > AGAIN_MS)) {
          last.current = { text, at: now }
          if (!over) take.current(text)
        } else if (text) last.current.at = now
      }
      timer = setTimeout(() => void look(), EVERY_MS)
    }
    const begin = async () => {
      try {
        stream = await navigator.mediaDevices.getUserMedia({
          video: { facingMode: 'environment', width: { ideal: 1280 }, height: { ideal: 720 } },
        })
        const seen = video.current
        if (over || !seen) return stream.getTracks().forEach((t) => t.stop())
        seen.srcObject = stream
        await seen.play()
        await look()
      } catch (trouble) {
        const name = trouble instanceof Error ? trouble.name : ''
        if (!over)
          setSays(
            SAYS[name] ?? `The camera does not work here: ${trouble instanceof Error ? trouble.message : 'unknown'}.`,
          )
      }
    }
    void begin()
    return () => {
      over = true
      clearTimeout(timer)
      stream?.getTracks().forEach((t) => t.stop())
    }
  }, [])
  return (
    <div className="hs-camera" role="region" aria-label="Camera">
      {says ? (
        <p className="hs-note">{says}</p>
      ) : (
        <video ref={video} muted playsInline aria-label="What the camera sees" />
      )}
      <button className="hs-btn" onClick={close}>
        Close the camera
      </button>
    </div>
  )
}
