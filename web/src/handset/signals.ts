/** A tone and a vibration of its own for right and wrong. Silent where the device has none. */
export function signal(right: boolean): void {
  navigator.vibrate?.(right ? 40 : [120, 60, 120])
  try {
    context ??= new AudioContext()
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
