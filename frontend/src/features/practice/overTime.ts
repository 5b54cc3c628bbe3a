import type { Schemas } from '@/api/client'

const FADES = 0.85
const WIDE = 100
const HIGH = 24

/** What was believed after each try, the oldest first: by the rule of a topic. */
export function skills(tries: Pick<Schemas['TryShown'], 'right'>[]): number[] {
  let good = 0
  let total = 0
  return [...tries].reverse().map((t) => {
    good = good * FADES + Number(t.right)
    total = total * FADES + 1
    return (good + 1) / (total + 2)
  })
}

/** A line through them, in a box of 100 by 24, from the left to the right. */
export function lineThrough(values: number[]): string {
  const step = values.length > 1 ? WIDE / (values.length - 1) : 0
  return values.map((v, i) => `${(i * step).toFixed(1)},${((1 - v) * HIGH).toFixed(1)}`).join(' ')
}
