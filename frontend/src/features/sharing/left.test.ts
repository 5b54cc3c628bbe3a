import { describe, expect, it } from 'vitest'
import { clock, secondsLeft } from './left'

describe('how long a code lives', () => {
  it('is told in whole seconds, none once it is over', () => {
    const now = Date.parse('2026-11-27T12:00:00Z')
    expect(secondsLeft('2026-11-27T12:02:00Z', now)).toBe(120)
    expect(secondsLeft('2026-11-27T12:00:00.400Z', now)).toBe(1)
    expect(secondsLeft('2026-11-27T11:59:00Z', now)).toBe(0)
  })
  it('reads like a clock', () => {
    expect([clock(120), clock(65), clock(9), clock(0)]).toEqual(['2:00', '1:05', '0:09', '0:00'])
  })
})
