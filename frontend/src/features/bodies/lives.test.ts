import { describe, expect, it } from 'vitest'
import { lifeWords, livesByMark, markKey } from './lives'

const point = (visit_id: number, frame_id: number, at: string) => ({
  visit_id,
  frame_id,
  at,
  visible: 1,
  total: 1,
})
const POINTS = [
  point(1, 11, '2026-03-01T09:00:00'),
  point(1, 12, '2026-03-01T09:02:00'),
  point(2, 21, '2026-04-01T09:00:00'),
  point(2, 22, '2026-04-01T09:02:00'),
]
const STEPS = [
  { visit_id: 1, at: '2026-03-01T09:01:00', step: 'air' },
  { visit_id: 2, at: '2026-04-01T09:01:00', step: 'wet_swab' },
]
const LIFE = {
  sightings: [
    { frame_id: 11, spot: 's1', seen: 'first' as const },
    { frame_id: 12, spot: 's4', seen: 'moved' as const },
    { frame_id: 21, spot: 's2', seen: 'stayed' as const },
    { frame_id: 22, spot: null, seen: 'gone' as const },
  ],
}

describe('a spot followed through all frames', () => {
  it('is found by its mark in each frame that shows it', () => {
    const found = livesByMark([LIFE])
    expect([...found.keys()]).toEqual(['11:s1', '12:s4', '21:s2'])
    expect(found.get(markKey(21, 's2'))).toBe(LIFE)
  })

  it('tells when it came, what moved it and what took it', () => {
    expect(lifeWords(LIFE, POINTS, STEPS)).toEqual([
      { index: 0, words: 'First seen 1 Mar 2026' },
      { index: 1, words: 'Moved 1 Mar 2026: air, stayed in 1 frame after it' },
      { index: 3, words: 'Removed 1 Apr 2026: wet swab' },
    ])
  })

  it('leaves out frames that are not counted any more', () => {
    expect(lifeWords(LIFE, POINTS.slice(0, 1), STEPS)).toEqual([{ index: 0, words: 'First seen 1 Mar 2026' }])
  })
})
