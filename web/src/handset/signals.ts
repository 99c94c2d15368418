/** A tone and a vibration of its own for right and wrong. Silent where the device has none, or nobody wants it. */
export function signal(right: boolean): void {
  navigator.vibrate?.(right ? 40 : [120, 60, 120])
  if (silent()) return
  try {
    context ??= new AudioContext()
    void context.resume()
    const now = context.currentTime
    for (const [from, hertz] of right
      ? ([[0, 880]] as const)
      : ([
          [0, 300],
          [0.16, 220],
        ] as const)) {
      const tone = context.createOscillator()
      const loud = context.createGain()
      tone.frequency.value = hertz
      loud.gain.setValueAtTime(0.06, now + from)
      loud.gain.exponentialRampToValueAtTime(0.001, now + from + 0.14)
      tone.connect(loud).connect(context.destination)
      tone.start(now + from)
      tone.stop(now + from + 0.15)
    }
  } catch {
    // no sound device: the words and the mark say it too
  }
}

let context: AudioContext | undefined

/** Whether there is sound, in words. */
signal.says = (): string => {
  if (silent()) return 'words and marks say it all the same'
  if (typeof AudioContext === 'undefined') return 'this browser has no sound; words and marks say it'
  return context?.state === 'suspended'
    ? 'the browser allows none yet; words and marks say it'
    : 'right and wrong have a tone each'
}

/** May this page use a camera at all? */
export function mayCamera(): boolean {
  return typeof navigator.mediaDevices?.getUserMedia === 'function'
}

const SILENT = 'silent'

export function silent(): boolean {
  return localStorage.getItem(SILENT) === 'yes'
}

export function keepSilent(so: boolean): void {
  localStorage.setItem(SILENT, so ? 'yes' : 'no')
}
