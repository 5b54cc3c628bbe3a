import { describe, expect, it } from 'vitest'
import { lineThrough, skills } from './overTime'
import { errorWords, levelIn, stopwatch, topicWords, tryWords, proposed } from './practice'

const TOPIC = { topic: 'contact', tries: 4, right: 3, unsafe: 1, skill: 0.6 }
const TRY = { seed: 7, topic: 'level 2', right: false, unsafe: false, error_mm: 4.24, seconds: 6.4, at: 't' }

describe('what was practised', () => {
  it('is told by topic, unsafe choices apart', () => {
    expect(topicWords(TOPIC)).toBe('3 of 4 right, 1 unsafe')
    expect(topicWords({ ...TOPIC, tries: 0, right: 0, unsafe: 0 })).toBe('not tried yet')
  })
  it('is told try by try', () => {
    expect(tryWords(TRY)).toBe('Level 2: 4.2 mm off, 6 seconds')
    expect(tryWords({ ...TRY, error_mm: null, topic: 'stop' })).toBe('Stop: not the advice, 6 seconds')
    expect(tryWords({ ...TRY, error_mm: null, unsafe: true })).toBe('Level 2: unsafe, 6 seconds')
  })
  it('names its level', () => {
    expect([levelIn('level 3'), levelIn('contact')]).toEqual([3, null])
  })
  it('is seen over time, the newest try last', () => {
    const course = skills([{ right: true }, { right: false }])
    expect(course.map((s) => Number(s.toFixed(3)))).toEqual([0.333, 0.519])
    expect(lineThrough(course)).toBe('0.0,16.0 100.0,11.5')
    expect(lineThrough([0.5])).toBe('0.0,12.0')
    expect(skills([])).toEqual([])
  })
  it('is timed', () => {
    let at = 1000
    const watch = stopwatch(() => at)
    at = 3500
    expect(watch()).toBe(2.5)
  })
  it('says whether a tool would meet the spot', () => {
    expect(errorWords(1.24, true)).toBe('1.2 mm off: the tool would meet it.')
    expect(errorWords(9, false)).toBe('9.0 mm off: the tool would miss it.')
  })
})

const progressOf = (
  exercise: 'frames' | 'places' | 'moves' | 'hand' | 'clean',
  tries: number,
  right: number,
) => ({ exercise, topics: [{ topic: 't', tries, right, unsafe: 0, skill: 0 }], tries: [] }) as never

it('the first exercise never tried is proposed, then the one that goes worst', () => {
  expect(proposed([])).toBeNull()
  expect(proposed([progressOf('moves', 0, 0), progressOf('frames', 3, 3), progressOf('places', 0, 0)])).toBe(
    'places',
  )
  expect(proposed([progressOf('frames', 4, 3), progressOf('hand', 5, 1), progressOf('moves', 2, 1)])).toBe(
    'hand',
  )
})
