import { dayOf } from '@/shared/lib/format'
/** Days of a month, and what stands on each. */
import type { Schemas } from '@/api/client'

export type Entry = Schemas['CalendarEntry']

export const WEEKDAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'] as const
export const KIND_NAMES: Record<Entry['kind'], string> = {
  look: 'Look',
  job: 'Job',
  away: 'At a service',
  best_before: 'Best before',
}
export const KIND_ICONS: Record<Entry['kind'], string> = {
  look: 'pi-eye',
  job: 'pi-calendar',
  away: 'pi-truck',
  best_before: 'pi-hourglass',
}

/** Whole weeks, from Monday on, that hold a month such as 2026-11. */
export function monthDays(month: string): string[] {
  const first = new Date(`${month}-01T12:00`)
  const before = (first.getDay() + 6) % 7
  const last = new Date(first.getFullYear(), first.getMonth() + 1, 0, 12)
  const weeks = Math.ceil((before + last.getDate()) / 7)
  return Array.from({ length: 7 * weeks }, (_, i) =>
    dayOf(new Date(first.getFullYear(), first.getMonth(), 1 + i - before, 12)),
  )
}

/** What stands on a day, or goes on over it. */
export function entriesOn(entries: readonly Entry[], on: string): Entry[] {
  return entries.filter((e) => e.on <= on && on <= (e.until ?? e.on))
}
