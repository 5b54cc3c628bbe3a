import { describe, expect, it } from 'vitest'
import { countsWords, removedPercent } from './outcomes'

const counts = {
  before: 12,
  after: 9,
  gone: 4,
  stayed: 5,
  fainter: 1,
  moved: 2,
  new: 3,
  unseen: 2,
  removed_percent: 33.3,
}

describe('what a comparison counts', () => {
  it('says fates that add up, and what is not told beside them', () => {
    expect(countsWords(counts)).toBe('4 of 12 spots removed, 5 stayed, 1 fainter, 2 moved, 3 new, 2 not told')
    expect(removedPercent(counts)).toBe(33.3)
  })

  it('gives no share of nothing', () => {
    const none = { ...counts, gone: 0, stayed: 0, fainter: 0, moved: 0, new: 0, unseen: 2 }
    expect(removedPercent(none)).toBeNull()
    expect(countsWords({ ...none, before: 0, after: 0 })).toBe('Neither frame shows a spot')
  })
})
