import { expect, test } from 'vitest'
import type { Schemas } from '@/api/client'
import { stepsSaid } from './odds'

const rung = (cases: number, mean: number, low: number, high: number): Schemas['RungOdds'] =>
  ({
    step: 'air',
    kinds: [{ kind: 'speck', removed: { cases, count: 0, mean, low, high } }],
  }) as unknown as Schemas['RungOdds']

test('a share is said in tenths, and whose it is', () => {
  expect(stepsSaid([rung(60, 0.31, 0.2, 0.42)], true)[0]?.words).toBe(
    'Air removes about 3 of 10 specks on your cameras',
  )
  expect(stepsSaid([rung(60, 0.31, 0.2, 0.42)], false)[0]?.words).toContain('on this camera')
})

test('where nobody can know, no number is said', () => {
  const said = stepsSaid([rung(2, 0.5, 0.05, 0.95)], true)[0]
  expect(said?.words).toContain('too few retests')
  expect(said?.words).not.toMatch(/\d/)
  expect(said?.tenths).toBe(0)
})

test('a step never retested is not spoken of', () => {
  expect(stepsSaid([rung(0, 0.5, 0, 1)], true)).toEqual([])
})
