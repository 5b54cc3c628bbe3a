import { describe, expect, it } from 'vitest'
import { CHARGES, chargeOf, chargeWord } from './battery'

describe('a battery', () => {
  it('is full, half or low, and unknown stays unknown', () => {
    expect([100, 95, 94, 40, 39, 0].map((p) => chargeOf(p))).toEqual([100, 100, 50, 50, 15, 15])
    expect(chargeOf(null)).toBeNull()
    expect([97, 50, 12].map(chargeWord)).toEqual(['full', 'half', 'low'])
  })

  it('keeps what was chosen', () => {
    for (const choice of CHARGES) expect(chargeOf(choice.value)).toBe(choice.value)
  })
})
