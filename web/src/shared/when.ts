/** A moment in a time zone, short: `24 Nov, 04:47`; with `seconds`, `Tue 3 Mar, 08:31:32`. */
export function when(iso: string, timeZone?: string, seconds = false): string {
  return new Intl.DateTimeFormat('en-GB', {
    timeZone,
    weekday: seconds ? 'short' : undefined,
    day: 'numeric',
    month: 'short',
    hour: '2-digit',
    minute: '2-digit',
    second: seconds ? '2-digit' : undefined,
  }).format(new Date(iso))
}

/** A day and its time, written out, as it is where the reader is. */
export const day = (at: string) => new Date(at).toLocaleString('en-GB', { dateStyle: 'long', timeStyle: 'short' })

/** A moment by this machine's clock, as 08:30:05. By hand: to set languages up costs a slow phone more than all else it shows first. */
export const onTheClock = (at: Date) =>
  [at.getHours(), at.getMinutes(), at.getSeconds()].map((n) => String(n).padStart(2, '0')).join(':')
