import { expect, test } from 'vitest'
import { dayOf } from '@/shared/lib/format'
import { entriesOn, monthDays, type Entry } from './calendar'

test('a month is whole weeks from Monday on', () => {
  const days = monthDays('2026-11')
  expect([days.length, days[0], days.at(-1)]).toEqual([42, '2026-10-26', '2026-12-06'])
  expect(monthDays('2027-02')).toHaveLength(28)
  expect(monthDays('2024-02')).toContain('2024-02-29')
})

test('a day is that of this machine', () => {
  expect(dayOf(new Date(2026, 0, 5, 23, 59))).toBe('2026-01-05')
})

test('what goes on over days stands on each of them', () => {
  const entry = (uid: string, on: string, until: string | null): Entry => ({
    uid,
    on,
    until,
    kind: 'away',
    title: uid,
    note: '',
    at: '/',
  })
  const all = [entry('a', '2026-03-01', null), entry('b', '2026-02-27', '2026-03-02')]
  const on = (day: string): string[] => entriesOn(all, day).map((e) => e.uid)
  expect([on('2026-03-01'), on('2026-03-02'), on('2026-03-03')]).toEqual([['a', 'b'], ['b'], []])
})
