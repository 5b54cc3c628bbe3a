import { describe, expect, it } from 'vitest'
import { seenIn, shownAs } from './lay'

const whole = { width_px: 3000, height_px: 2000, orientation: 1 }
const still = { scale: 1, shift_px: [0, 0], turn_deg: 0 }

describe('two frames looked at as one', () => {
  it('look at the same place when they lie as they are', () => {
    const seen = { x: 0.2, y: 0.5, zoom: 4 }
    expect(seenIn(seen, whole, whole, still, false)).toEqual(seen)
  })

  it('follow a crop to where it was cut', () => {
    const cut = { width_px: 1500, height_px: 1000, orientation: 1 }
    const fit = { scale: 1, shift_px: [-250, 100], turn_deg: 0 }
    const seen = seenIn({ x: 0.5, y: 1 / 3, zoom: 2 }, whole, cut, fit, false)
    expect(seen.x).toBeCloseTo(0.5 - 250 / 1500)
    expect(seen.y).toBeCloseTo(1 / 3 + 100 / 1500)
    expect(seen.zoom).toBeCloseTo(1)
  })

  it('follow a turned picture to the same corner', () => {
    const turned = { width_px: 2000, height_px: 3000, orientation: 1 }
    const fit = { scale: 1, shift_px: [0, 0], turn_deg: 90 }
    const seen = seenIn({ x: 0, y: 0, zoom: 1 }, whole, turned, fit, false)
    expect(seen.x).toBeCloseTo(0)
    expect(seen.y).toBeCloseTo(1.5)
    expect(seen.zoom).toBeCloseTo(2 / 3)
  })

  it('lead back to where they came from', () => {
    const cut = { width_px: 1400, height_px: 1900, orientation: 6 }
    const fit = { scale: 0.8, shift_px: [120, -60], turn_deg: 90 }
    const seen = { x: 0.31, y: 0.22, zoom: 3 }
    const there = seenIn(seen, whole, cut, fit, false)
    const again = seenIn(there, whole, cut, fit, true)
    expect(again.x).toBeCloseTo(seen.x)
    expect(again.y).toBeCloseTo(seen.y)
    expect(again.zoom).toBeCloseTo(seen.zoom)
  })

  it.each([
    [1, 0, 1],
    [1, 90, 6],
    [1, 180, 3],
    [1, 270, 8],
    [6, 90, 3],
    [8, 90, 1],
  ])('a frame under tag %i and turned by %i degrees is shown under tag %i', (tag, turn, shown) => {
    const before = { ...whole, orientation: tag }
    expect(shownAs(before, { ...whole, orientation: tag }, { ...still, turn_deg: turn })).toBe(
      turn === 0 ? tag : shown,
    )
  })
})
