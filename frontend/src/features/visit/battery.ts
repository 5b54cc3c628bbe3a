/** A battery as cameras show it; few tell a percentage. Each stands for the least it may be. */
export const CHARGES = [
  { label: 'Full, or charged today', value: 100 },
  { label: 'Half', value: 50 },
  { label: 'Low', value: 15 },
] as const

const FULL_PERCENT = 95
const HALF_PERCENT = 40

/** The choice that a percentage stands for; null where none is told. */
export function chargeOf(percent: number | null | undefined): number | null {
  if (percent == null) return null
  if (percent >= FULL_PERCENT) return 100
  return percent >= HALF_PERCENT ? 50 : 15
}

/** How full a battery is, in a word. */
export const chargeWord = (percent: number): string =>
  ({ 100: 'full', 50: 'half', 15: 'low' })[chargeOf(percent) ?? 15] ?? 'low'
