import { describe, expect, it } from 'vitest'
import type { Spot } from '@/api/client'
import { spanWords } from './format'
import { cutThrough, lightOf } from './profile'
import { nextSpot, spotWords } from './spots'

describe('nextSpot', () => {
  const at = (id: string, x: number, y: number) => ({ id, x, y })
  const here = at('here', 0, 0)
  const spots = [here, at('near', 10, 1), at('far', 40, 0), at('aside', -3, 30), at('up', 0, -9)]
  it('leads to the nearest that lies that way', () => {
    expect(nextSpot(spots, here, 'ArrowRight')?.id).toBe('near')
    expect(nextSpot(spots, here, 'ArrowUp')?.id).toBe('up')
    expect(nextSpot(spots, here, 'ArrowDown')?.id).toBe('aside')
  })
  it('leads nowhere where nothing lies, and by no other key', () => {
    expect(nextSpot(spots, here, 'ArrowLeft')).toBeNull()
    expect(nextSpot(spots, here, 'Enter')).toBeNull()
  })
})

describe('spotWords', () => {
  it('say what, how wide, from where visible, and where', () => {
    const spot = {
      kind: 'droplet',
      outer_um: 210,
      outer_px: 20,
      shows_from_f: 8,
      site: 'sensor',
      zone: 'top left',
    } as unknown as Spot
    expect(spotWords(spot)).toBe('Droplet, shadow 210 µm wide, visible from f/8, on the sensor, top left')
    expect(spotWords({ ...spot, outer_um: null, shows_from_f: null })).toContain(
      '20 px wide, visible at no aperture',
    )
  })
})

describe('light along a line', () => {
  const SIDE = 21
  /** A grey square with a darker disc in the middle. */
  const tones = (dark: number): Uint8ClampedArray => {
    const data = new Uint8ClampedArray(4 * SIDE * SIDE)
    for (let y = 0; y < SIDE; y++)
      for (let x = 0; x < SIDE; x++) {
        const tone = Math.hypot(x - 10, y - 10) < 4 ? dark : 188
        data.set([tone, tone, tone, 255], 4 * (y * SIDE + x))
      }
    return data
  }
  it('is read in linear light: sRGB 188 is half of white', () => {
    expect(lightOf(tones(188))[0]).toBeCloseTo(0.5, 2)
  })
  it.each([0, Math.PI / 3])('falls to what is left of it, at any angle: %s', (angle) => {
    const cut = cutThrough(lightOf(tones(137)), SIDE, angle, 1)
    expect(cut).toHaveLength(SIDE)
    expect(cut[0]).toBeCloseTo(1, 5)
    expect(Math.min(...cut)).toBeCloseTo(0.5, 1)
  })
  it('has nothing to say of a black picture', () => {
    expect(cutThrough(new Float64Array(SIDE * SIDE), SIDE, 0, 1)).toEqual([])
  })
})

describe('spanWords', () => {
  it.each([
    [4.2, 118, '4 s to 2 min'],
    [33, 68, '35 to 70 s'],
    [100, 900, '1.5 to 15 min'],
    [0.01, 0.4, '1 to 1 s'],
  ])('%s to %s seconds are %s', (least, most, words) => {
    expect(spanWords(least, most)).toBe(words)
  })
})
