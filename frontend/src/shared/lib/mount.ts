import type { MountView, Pose, Spot } from '@/api/client'
import { courseOf } from './bands'
import type { Point } from './geometry'

export const POSE_WORDS: Record<Pose, string> = {
  top_away: 'On its back, top away from you',
  top_toward: 'On its back, top toward you',
  top_left: 'On its back, top to the left',
  top_right: 'On its back, top to the right',
  standing: 'Standing, opening toward you',
  overhead: 'Overhead, opening down, top behind you',
  overhead_turned: 'Overhead, opening down, top ahead',
}

/** Where the camera's top shows in the mount view: degrees clockwise from up. */
export const TOP_AT: Record<Pose, number> = {
  top_away: 0,
  standing: 0,
  overhead: 0,
  top_right: 90,
  top_toward: 180,
  overhead_turned: 180,
  top_left: 270,
}

export interface Placed {
  id: string
  kind: Spot['kind']
  x: number
  y: number
  radius: number
  /** Fibres and smears: their middle line about their place, and half their width; null for what is round. */
  long: { course: Point[]; halfWidth: number } | null
  relevant: boolean
}

/** Spots in the mount view, millimetres from its centre; those without a place are left out. */
export function placed(spots: readonly Spot[], view: MountView): Placed[] {
  const [a, b, c, d] = view.matrix
  const relevant = new Set(view.relevant)
  return spots.flatMap((s) => {
    if (s.x_mm === null || s.y_mm === null || (s.site !== 'sensor' && s.site !== 'unsure')) return []
    return [
      {
        id: s.id,
        kind: s.kind,
        x: a * s.x_mm + c * s.y_mm,
        y: b * s.x_mm + d * s.y_mm,
        radius: Math.max((s.outer_um ?? 100) / 2000, 0.18),
        long: longOf(s, [a, b, c, d]),
        relevant: relevant.has(s.id),
      },
    ]
  })
}

/** The shape of what is long, turned as it lies in the view. */
function longOf(s: Spot, [a, b, c, d]: readonly [number, number, number, number]): Placed['long'] {
  if ((s.kind !== 'fibre' && s.kind !== 'residue') || s.angle_deg == null) return null
  const perPx = s.outer_um === null ? 0.005 : s.outer_um / 1000 / s.outer_px
  return {
    course: courseOf(s).map(({ x, y }) => ({ x: (a * x + c * y) * perPx, y: (b * x + d * y) * perPx })),
    halfWidth: Math.max(((s.width_px ?? s.outer_px / 6) * perPx) / 2, 0.06),
  }
}
