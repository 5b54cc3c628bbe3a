import { expect, test } from 'vitest'
import type { Schemas } from '@/api/client'
import { chanceWords, exposureWords, rateWords } from './outlook'

const forecast = (values: Partial<Schemas['Forecast']>): Schemas['Forecast'] => ({
  limit: 5,
  visible: 1,
  early: '2026-12-10',
  middle: '2027-01-20',
  late: '2027-03-01',
  look_on: '2026-12-20',
  over: false,
  ...values,
})

test('a rate is told by the week, with its interval', () => {
  const rate = { mean: 0.1, low: 0.05, high: 0.2 }
  const known = { a_day: rate, a_change: null, came: 3, days: 30, intervals: 1 }
  expect(rateWords(known)).toBe('0.70 (0.35 to 1.4) visible spots come a week.')
  const changed = rateWords({ ...known, a_change: { mean: 0.4, low: 0.2, high: 0.9 } })
  expect(changed).toContain('and 0.40 (0.20 to 0.90) with each lens change.')
})

test('a forecast says when the limit is passed and when to look', () => {
  const words = chanceWords(forecast({}), '2026-11-27')
  expect(words).toContain('by about 20 Jan 2027 (between 10 Dec 2026 and 1 Mar 2027)')
  expect(words).toContain('Look at it by 20 Dec 2026.')
})

test('what is over, due or far off is said', () => {
  expect(chanceWords(forecast({ over: true }), '2026-11-27')).toContain('already: look at it now')
  expect(chanceWords(forecast({}), '2026-12-24')).toContain('are possible by now')
  expect(chanceWords(forecast({}), '2027-02-01')).toContain('are likely by now')
  expect(chanceWords(forecast({ look_on: null }), '2026-11-27')).toContain('unlikely')
})

test('a logged day names its place', () => {
  const e = { id: 1, on_day: '2026-05-04', kind: 'dusty_day', place: 'Beach' }
  expect(exposureWords(e)).toBe('Dusty day, 4 May 2026, Beach')
})
