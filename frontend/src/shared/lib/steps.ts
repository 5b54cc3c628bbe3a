import type { Decision, Step, StepUse } from '@/api/client'
import { capital, count } from './format'

/** Names of steps and decisions as people say them. */
export const STEP_WORDS: Record<Decision, string> = {
  stop_done: 'Stop, it is clean',
  defer: 'Leave it for now',
  reshoot: 'Shoot again',
  clean_lens: 'Clean the lens',
  auto_clean: 'Built-in shake',
  air: 'Air',
  brush: 'Sensor brush',
  lift: 'Lift',
  dry_swab: 'Dry swab',
  wet_swab: 'Wet swab',
  dry_followup: 'Dry follow-up',
  corner_swab: 'Corner swab',
  prepare: 'Get ready',
  service: 'Service',
  teardown: 'Open the camera',
  retouch: 'Patch pictures',
}

/** How a visit ended. */
export const VERDICT_WORDS: Record<string, string> = {
  finished: 'finished',
  deferred: 'postponed',
  sent: 'sent to a service',
  given_up: 'stopped',
}

export const EXPERIENCE_WORDS = {
  novice: 'beginner',
  practised: 'practised',
  expert: 'expert',
} as const

/** Rungs one can do, from the gentlest up. */
export const RUNGS: readonly Step[] = [
  'clean_lens',
  'auto_clean',
  'air',
  'brush',
  'lift',
  'dry_swab',
  'dry_followup',
  'wet_swab',
  'corner_swab',
]

/** Decisions that are a step for the hands. */
export function isRung(decision: Decision): decision is Step & Decision {
  return (RUNGS as readonly string[]).includes(decision)
}

const THING_WORDS: Record<string, string> = {
  mouth_air: 'Blowing by mouth',
  reuse_swab: 'A used swab',
  raise_mirror: 'Raising the mirror',
  stop_done: 'Stopping as clean',
  carbon_pen: 'Carbon-tip pen',
  gas_can: 'Gas from a can',
  lens_brush: 'Lens brush',
  lens_wipe: 'Lens wipe',
  lens_fluid: 'Lens fluid',
}

/** Words for what is barred. */
export function barredWords(action: string): string {
  const known = THING_WORDS[action]
  if (known) return known
  if (action in STEP_WORDS) return STEP_WORDS[action as Decision]
  if (action.startsWith('fluid:')) return `${capital(action.slice(6).replace(/_/g, '-'))} fluid`
  return capital(action.replace(/_/g, ' '))
}

/** What a step used, in a few words. */
export function useWords(use: StepUse): string {
  const parts: string[] = []
  if (use.assumed) parts.push('assumed')
  if (use.opening) parts.push(`opening ${use.opening}`)
  for (const [key, one] of [
    ['runs', 'run'],
    ['puffs', 'puff'],
    ['dabs', 'dab'],
    ['strokes', 'stroke'],
    ['swabs', 'swab'],
    ['drops', 'drop'],
  ] as const) {
    const n = use[key]
    if (n) parts.push(count(n, one))
  }
  if (use.fluid) parts.push(`${use.fluid.replace(/_/g, '-')} fluid`)
  if (use.waited_s) parts.push(`waited ${use.waited_s} s`)
  if (use.tip_bent) parts.push('tip bent')
  if (use.open_s) parts.push(`open ${clock(use.open_s)}`)
  return parts.join(', ')
}

/** Seconds as minutes and seconds. */
export function clock(seconds: number): string {
  const whole = Math.max(0, Math.round(seconds))
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, '0')}`
}

/** How a step is usually done, to log it without the guided mode. */
export function usualUse(step: Step): StepUse {
  const usual: Partial<Record<Step, StepUse>> = {
    auto_clean: { runs: 5, opening: 'down' },
    air: { opening: 'down' },
    dry_swab: { strokes: 2 },
    dry_followup: { strokes: 2 },
    wet_swab: { drops: 2, strokes: 2 },
    corner_swab: { drops: 1 },
  }
  return usual[step] ?? {}
}
