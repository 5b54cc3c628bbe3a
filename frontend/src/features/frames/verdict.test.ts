import { describe, expect, it } from 'vitest'
import type { SpotMap } from '@/api/client'
import { verdictOf } from './verdict'

type Check = SpotMap['checks'][number]
const check = (level: Check['level'], message = '', remedy = ''): Check =>
  ({ code: 'any', level, message, remedy, value: null, limit: null }) as unknown as Check
const map = (count: number, relevant: number | null, checks: Check[] = []): SpotMap =>
  ({
    summary: { count, relevant },
    checks,
    fit: !checks.some((c) => c.level === 'retake'),
  }) as unknown as SpotMap

describe('verdictOf', () => {
  it('says first what makes a frame unfit and what to do', () => {
    const said = verdictOf(
      map(1, 1, [check('retake', 'f/4 hides small dust.', 'Set f/16 and shoot again.')]),
      16,
    )
    expect(said.tone).toBe('stop')
    expect(said.headline).toBe('Not fit: f/4 hides small dust')
    expect(said.rest).toBe('Set f/16 and shoot again. 1 spot found; more may be hidden.')
  })
  it('never says that nothing shows where the frame could not tell', () => {
    const bad = [check('retake', 'The frame is dark.', 'Expose longer.')]
    expect(verdictOf(map(0, 0, bad), 16).headline).toBe('Not fit: the frame is dark')
    expect(verdictOf(map(0, 0, bad), 16).rest).toContain('Nothing can be told')
    expect(verdictOf(map(3, null), 16)).toMatchObject({
      tone: 'unknown',
      headline: '3 spots found; what shows is not known',
    })
  })
  it('counts what shows, and tells of what is fainter', () => {
    expect(verdictOf(map(30, 30), 16)).toMatchObject({ headline: '30 spots show at f/16', rest: '' })
    expect(verdictOf(map(4, 1), 8)).toMatchObject({
      headline: '1 spot shows at f/8',
      rest: '3 fainter ones were found, too.',
    })
    expect(verdictOf(map(2, 0), 8)).toMatchObject({ tone: 'clear', rest: '2 faint spots were found.' })
    expect(verdictOf(map(0, 0), 8)).toMatchObject({ tone: 'clear', rest: 'No spot was found.' })
  })
})
