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

/** 2026-09-14T10:00:00 as 14 Sep 2026. */
export function day(iso: string | null): string {
  if (!iso) return 'date unknown'
  const date = new Date(iso)
  if (Number.isNaN(date.getTime())) return 'date unknown'
  return date.toLocaleDateString('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })
}

/** The text with its first letter large. */
export function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1)
}
