import { describe, expect, it } from 'vitest'
import { relativeTo, type Matrix } from './geometry'

const at = ([a, b, c, d, e, f]: Matrix, x: number, y: number): [number, number] => [
  a * x + c * y + e,
  b * x + d * y + f,
]

describe('relativeTo', () => {
  it('takes what one matrix placed to where the other places it', () => {
    const from: Matrix = [0.3, 0.1, -0.1, 0.3, 12, 40]
    const to: Matrix = [0, 0.8, -0.8, 0, 200, -30]
    const moved = relativeTo(to, from)
    for (const [x, y] of [
      [0, 0],
      [100, 40],
      [3000, 2000],
    ] as const) {
      const got = at(moved, ...at(from, x, y))
      const wanted = at(to, x, y)
      expect(got[0]).toBeCloseTo(wanted[0], 6)
      expect(got[1]).toBeCloseTo(wanted[1], 6)
    }
  })
})
