import type { Guide, PowerPlan, StepUse } from '@/api/client'

export type Instruction = Guide['instructions'][number]

/** Where one is in the instructions, and what has been counted.
 *
 * `openS`: how long the camera has lain open; `upS`: how long its mirror has been up. */
export interface Progress {
  at: number
  counts: Record<string, number>
  openS: number
  upS: number
}

export const START: Progress = { at: 0, counts: {}, openS: 0, upS: 0 }

/** A press so soon after its instruction appeared was meant for the one before. */
export const TOO_SOON_MS = 500

/** Whether a press that would log something comes late enough to be meant. */
export function isMeant(appearedMs: number, nowMs: number): boolean {
  return nowMs - appearedMs >= TOO_SOON_MS
}

/** Whether the camera lies open at an instruction. */
export function isOpen(instructions: readonly Instruction[], at: number): boolean {
  let open = false
  for (const [i, step] of instructions.entries()) {
    if (i > at) break
    if (step.opens) open = true
    if (step.closes) open = i === at
  }
  return open
}

/** Whether the mirror is up at an instruction: raised in one before, not lowered since. */
export function isUp(instructions: readonly Instruction[], at: number): boolean {
  let up = false
  for (const step of instructions.slice(0, at)) {
    if (step.raises) up = true
    if (step.lowers) up = false
  }
  return up
}

const acts = (instructions: readonly Instruction[], before: number): number =>
  instructions.slice(0, before).reduce((n, i) => n + (i.acts?.length ?? 0), 0)

/** The same place in the guide of another length: at the first screen with something not yet done.
 *
 * What was counted goes along to where the same is counted. */
export function placedIn(
  progress: Progress,
  from: readonly Instruction[],
  to: readonly Instruction[],
): Progress {
  const done = acts(from, progress.at)
  const first = to.findIndex((_, i) => acts(to, i + 1) > done)
  const at = progress.at >= from.length || first < 0 ? to.length : progress.at === 0 ? 0 : first
  const counts: Record<string, number> = {}
  for (const [key, n] of Object.entries(progress.counts)) {
    const was = from[Number(key)]
    const alike = (i: Instruction): boolean => i.count === was?.count && i.shows_plan === was?.shows_plan
    const there = to.findIndex((i) => alike(i) && i.first === was?.first)
    if (was?.count && there >= 0) counts[String(there)] = (counts[String(there)] ?? 0) + n
  }
  return { ...progress, at, counts }
}

export type Alarm = 'none' | 'warn' | 'stop'

/** How pressing the battery is, by the times the plan gives. */
export function alarmOf(power: PowerPlan | null, upS: number): Alarm {
  if (power?.stop_s != null && upS >= power.stop_s) return 'stop'
  return power?.warn_s != null && upS >= power.warn_s ? 'warn' : 'none'
}

export function next(progress: Progress, instructions: readonly Instruction[]): Progress {
  return { ...progress, at: Math.min(progress.at + 1, instructions.length) }
}

export function back(progress: Progress): Progress {
  return { ...progress, at: Math.max(0, progress.at - 1) }
}

/** Count one more of what the instruction counts, kept apart for each instruction. */
export function counted(progress: Progress, change: number, at = progress.at): Progress {
  const key = String(at)
  return {
    ...progress,
    counts: { ...progress.counts, [key]: Math.max(0, (progress.counts[key] ?? 0) + change) },
  }
}

/** What the step used, from the counters and the clock. */
export function usedIn(
  progress: Progress,
  instructions: readonly Instruction[],
  step: string,
  swabs = 1,
): StepUse {
  const use: Record<string, number | string> = {}
  for (const [i, instruction] of instructions.entries()) {
    const n = progress.counts[String(i)] ?? 0
    // What was never counted is logged as none, not as planned; what has no aim may be left uncounted.
    if (instruction.count && (n > 0 || instruction.target != null))
      use[instruction.count] = Number(use[instruction.count] ?? 0) + n
  }
  if (step === 'air' || step === 'auto_clean') use.opening = 'down'
  if (['wet_swab', 'dry_swab', 'dry_followup', 'corner_swab'].includes(step)) use.swabs = swabs
  if (progress.openS > 0) use.open_s = Math.round(progress.openS)
  return use
}
