import type { Prediction, Spot } from '@/api/client'

/** Whole stops a slider runs over. */
export const LOOKS_AT = [2, 2.8, 4, 5.6, 8, 11, 16, 22, 32] as const
export const WORKING = [1.4, 2, 2.8, 4, 5.6, 8, 11, 16, 22, 32] as const

/** Place on the slider that lies nearest to an aperture, in stops. */
export function nearestStop(f: number | null): number {
  if (f === null) return LOOKS_AT.length - 2
  const distance = (n: number): number => Math.abs(Math.log(n / f))
  return LOOKS_AT.reduce((best, n, i) => (distance(n) < distance(LOOKS_AT[best] ?? 1) ? i : best), 0)
}

/** Spots with their depth and width replaced by the predicted ones. */
export function asPredicted(spots: readonly Spot[], prediction: Prediction): Spot[] {
  const told = new Map(prediction.spots.map((p) => [p.id, p]))
  return spots.flatMap((spot) => {
    const p = told.get(spot.id)
    if (!p) return []
    const wider = p.outer_px - spot.outer_px
    const width_px =
      spot.width_px === null || spot.width_px === undefined
        ? spot.width_px
        : Math.max(1, spot.width_px + wider)
    return [{ ...spot, depth: p.depth, outer_px: p.outer_px, width_px }]
  })
}

export function noticedIn(prediction: Prediction): Set<string> {
  return new Set(prediction.spots.filter((p) => p.noticed).map((p) => p.id))
}
