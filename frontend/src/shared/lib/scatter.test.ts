import { expect, test } from 'vitest'
import { scattered } from './scatter'

test('drawn dust lies where the words say, all of it in the frame', () => {
  for (const where of ['spread', 'edges', 'middle', 'single', null] as const) {
    const places = scattered(40, where)
    expect(places).toHaveLength(40)
    for (const { x, y } of places) {
      expect(Math.min(x, y)).toBeGreaterThan(0)
      expect(Math.max(x, y)).toBeLessThan(1)
      const edge = Math.min(x, y, 1 - x, 1 - y)
      if (where === 'edges') expect(edge).toBeLessThan(0.15)
      if (where === 'middle') expect(edge).toBeGreaterThan(0.3)
    }
  }
  expect(scattered(3, 'spread')).toEqual(scattered(3, 'spread'))
})
