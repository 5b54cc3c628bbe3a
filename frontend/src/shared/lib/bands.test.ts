import { expect, test } from 'vitest'
import type { Spot } from '@/api/client'
import { bandPath, courseOf } from './bands'

const fibre = (values: Partial<Spot>): Spot => ({ kind: 'fibre', outer_px: 20, ...values }) as Spot

test('a course is straight where the bend is not told, else as measured', () => {
  const [first, last] = courseOf(fibre({ angle_deg: 90 }))
  expect(first?.y).toBeCloseTo(-10)
  expect(last?.y).toBeCloseTo(10)
  const bent = courseOf(
    fibre({
      course_px: [
        [-8, 2],
        [0, -1],
        [8, 2],
      ],
    }),
  )
  expect(bent).toEqual([
    { x: -8, y: 2 },
    { x: 0, y: -1 },
    { x: 8, y: 2 },
  ])
})

test('a band goes along one side, around the end, back and around the other', () => {
  const path = bandPath(
    [
      { x: -10, y: 0 },
      { x: 10, y: 0 },
    ],
    2,
  )
  expect(path.replaceAll('.000', '')).toBe('M -10 2 L 10 2 A 2 2 0 0 0 10 -2 L -10 -2 A 2 2 0 0 0 -10 2 Z')
})
