import { describe, expect, it } from 'vitest'
import { hold } from './practice'
import { useHand } from './useHand'

describe('a hand', () => {
  it('is timed from the last drop to the first stroke, and keeps its strokes by face', () => {
    let at = 1000
    const hand = useHand(() => at)
    hand.reset()
    hand.drop()
    at = 2000
    hand.drop()
    at = 5000
    expect(hand.setDown(-10, 0, 0.6, null)).toBe(true)
    expect(hand.setDown(0, 0, 0.6, null)).toBe(false)
    at = 6000
    hand.move(10, 1, 0.7, 55)
    hand.lift()
    hand.move(99, 99, 9, null)
    hand.turn()
    hand.setDown(0, 0, 0.6, null)
    expect([hand.drops.value, hand.waited()]).toEqual([2, 3])
    expect(hand.strokes.value.map((s) => s.face)).toEqual([0, 1])
    expect(hand.strokes.value[0]?.samples.at(-1)).toEqual({
      t_s: 5,
      x_mm: 10,
      y_mm: 1,
      force_n: 0.7,
      tilt_deg: 55,
    })
    hand.reset()
    expect([hand.strokes.value, hand.drops.value, hand.face.value, hand.waited()]).toEqual([[], 0, 0, 0])
  })
  it('never grows beyond what is taken, and keeps where it ended', () => {
    const hand = useHand(() => 0)
    hand.setDown(0, 0, 0.6, null)
    for (let i = 0; i < 2000; i += 1) hand.move(i, 0, 0.6, null)
    expect(hand.strokes.value[0]?.samples).toHaveLength(780)
    expect(hand.strokes.value[0]?.samples.at(-1)?.x_mm).toBe(1999)
    for (let i = 0; i < 200; i += 1) {
      hand.lift()
      hand.setDown(0, 0, 0.6, null)
    }
    expect(hand.strokes.value).toHaveLength(80)
  })
  it('takes pressure and tilt from a pen, and from nothing else', () => {
    const event = { pressure: 0.5, tiltX: 20, tiltY: -35 }
    expect(hold({ ...event, pointerType: 'pen' }, 0.6)).toEqual({ force_n: 1, tilt_deg: 55 })
    expect(hold({ ...event, tiltX: 0, tiltY: 0, pointerType: 'pen' }, 0.6).tilt_deg).toBeNull()
    expect(hold({ ...event, pointerType: 'touch' }, 0.6)).toEqual({ force_n: 0.6, tilt_deg: null })
  })
})
