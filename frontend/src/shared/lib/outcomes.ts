/** What a step did, in words. */
import type { Comparison, Schemas, StepOnTrail } from '@/api/client'
import { count } from './format'

type Counts = Comparison['summary']

const RESULT_WORDS: Record<NonNullable<StepOnTrail['result']>, string> = {
  no_change: 'changed nothing',
  fewer: 'helped',
  cleared: 'cleared it',
  stirred: 'only stirred it',
  streaks: 'left streaks',
  worse: 'made it worse',
  unknown: 'cannot be judged',
}

export type Fate = Schemas['ComparedSpot']['status']
export const FATE_WORDS: Record<Fate, string> = {
  gone: 'removed',
  stayed: 'stayed',
  fainter: 'fainter',
  moved: 'moved',
  new: 'new',
  unseen: 'not told',
}

/** Spots that were there before and whose fate is told. */
const toldOf = (c: Counts): number => c.gone + c.stayed + c.fainter + c.moved

/** The share of them that is gone, in per cent; null where there were none. */
export function removedPercent(counts: Counts): number | null {
  const told = toldOf(counts)
  return told ? Math.round((1000 * counts.gone) / told) / 10 : null
}

/** Spots before and after, as 9 of 12 spots removed, 3 stayed. */
export function countsWords(counts: Counts): string {
  if (counts.before === 0 && counts.after === 0) return 'Neither frame shows a spot'
  return [
    `${counts.gone} of ${count(toldOf(counts), 'spot')} removed`,
    `${counts.stayed} stayed`,
    counts.fainter ? `${counts.fainter} fainter` : '',
    counts.moved ? `${counts.moved} moved` : '',
    counts.new ? `${counts.new} new` : '',
    counts.unseen ? `${counts.unseen} not told` : '',
  ]
    .filter(Boolean)
    .join(', ')
}

/** What a step did, by the frames around it: said after its name. */
export function resultWords(step: StepOnTrail): string {
  return step.tested ? RESULT_WORDS[step.result ?? 'unknown'] : 'not retested yet'
}
