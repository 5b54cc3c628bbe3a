/** Numbers as people read them: units and sensible digits. */

export function fStop(value: number | null | undefined): string {
  return value == null ? '–' : `f/${Number(value.toPrecision(2))}`
}

export function percent(share: number): string {
  const value = share * 100
  if (value >= 10) return `${value.toFixed(0)} %`
  return `${value.toFixed(value >= 1 ? 1 : 2)} %`
}

export function micrometres(value: number | null | undefined): string {
  if (value == null) return '–'
  if (value >= 1000) return `${(value / 1000).toFixed(2)} mm`
  return `${value.toFixed(value < 10 ? 1 : 0)} µm`
}

export function pixels(value: number): string {
  return `${value.toFixed(value < 10 ? 1 : 0)} px`
}

export function count(number: number, one: string, many = `${one}s`): string {
  return `${number} ${number === 1 ? one : many}`
}

export function exposure(seconds: number | null): string {
  if (seconds == null) return '–'
  return seconds < 0.4 ? `1/${Math.round(1 / seconds)} s` : `${Number(seconds.toPrecision(2))} s`
}

/** A day alone; scripts would take it for midnight in Greenwich, which is the day before further west. */
const ONE_DAY = /^\d{4}-\d{2}-\d{2}$/

/** 2026-09-14T10:00:00 as 14 Sep 2026. */
export function day(iso: string | null): string {
  if (!iso) return 'date unknown'
  const date = new Date(ONE_DAY.test(iso) ? `${iso}T00:00` : iso)
  if (Number.isNaN(date.getTime())) return 'date unknown'
  return date.toLocaleDateString('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })
}

/** A date as 2026-11-27, in the time of this machine. */
export function dayOf(date: Date): string {
  const two = (n: number): string => String(n).padStart(2, '0')
  return `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())}`
}

/** The text with its first letter large. */
export function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1)
}

/** A range of times in digits that mean something, as 4 s to 2 min. */
export function spanWords(least_s: number, most_s: number): string {
  const [a, b] = [timeOf(least_s), timeOf(most_s)]
  return a[1] === b[1] ? `${a[0]} to ${b[0]} ${b[1]}` : `${a[0]} ${a[1]} to ${b[0]} ${b[1]}`
}

const SHORTEST_MINUTES_S = 90
function timeOf(seconds: number): [number, string] {
  if (seconds < SHORTEST_MINUTES_S) {
    const coarse = seconds < 10 ? 1 : 5
    return [Math.max(1, coarse * Math.round(seconds / coarse)), 's']
  }
  const minutes = seconds / 60
  return [minutes < 10 ? Math.round(2 * minutes) / 2 : Math.round(minutes), 'min']
}

/** How long something still takes, as "about 4 min left". */
export function leftWords(seconds: number): string {
  if (seconds < 10) return 'a few seconds left'
  if (seconds < SHORTEST_MINUTES_S) return `about ${10 * Math.ceil(seconds / 10)} s left`
  const minutes = Math.round(seconds / 60)
  return minutes < 120 ? `about ${minutes} min left` : `about ${Math.round(minutes / 60)} h left`
}
