import type { Schemas } from '@/api/client'
import { STEP_WORDS } from '@/shared/lib/steps'

type Rung = Schemas['RungOdds']
/** Wider than this the share is anybody's guess. */
const WIDE = 0.6

export interface StepSaid {
  step: string
  tenths: number
  words: string
}

/** What each step removes of specks, in a sentence for who never saw an interval. */
export function stepsSaid(rungs: readonly Rung[], all: boolean): StepSaid[] {
  const whose = all ? 'your cameras' : 'this camera'
  return rungs.flatMap((r) => {
    const specks = r.kinds.find((k) => k.kind === 'speck')
    if (!specks?.removed.cases) return []
    const { mean, low, high } = specks.removed
    const step = STEP_WORDS[r.step]
    if (high - low > WIDE) return [{ step, tenths: 0, words: `${step}: too few retests on ${whose} to say` }]
    const tenths = Math.round(10 * mean)
    return [{ step, tenths, words: `${step} removes about ${tenths} of 10 specks on ${whose}` }]
  })
}
