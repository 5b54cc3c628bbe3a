/** How long a code lives. */

/** Whole seconds until a moment, never below none. */
export function secondsLeft(until: string, now: number): number {
  return Math.max(0, Math.ceil((new Date(until).getTime() - now) / 1000))
}

/** As 1:05. */
export function clock(seconds: number): string {
  return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, '0')}`
}
