import type { Spot } from '@/api/client'
import { bandPath, courseOf } from './bands'

/** How a spot is drawn: shape tells the kind, line style what is known of its place; a cross is the target's. */
export interface Mark {
  id: string
  shape: 'circle' | 'band' | 'cross'
  x: number
  y: number
  radius: number
  /** Of what is long: its outline about its place. */
  outline: string
  inner: number | null
  dash: string
}

const LEAST_SCREEN_RADIUS = 6
const ROOM = 1.25

/** Marks in image pixels; small spots keep a least size on screen at `scale` px per image px. */
export function markOf(spot: Spot, scale: number): Mark {
  const least = LEAST_SCREEN_RADIUS / Math.max(scale, 1e-6)
  const radius = Math.max((spot.outer_px / 2) * ROOM, spot.kind === 'droplet' ? least * 1.5 : least)
  const band = spot.kind === 'fibre' || spot.kind === 'residue'
  const halfWidth = Math.max(((spot.width_px ?? spot.outer_px) / 2) * 1.6, least * 0.7)
  return {
    id: spot.id,
    shape: spot.site === 'scene' ? 'cross' : band ? 'band' : 'circle',
    x: spot.x_px + 0.5,
    y: spot.y_px + 0.5,
    radius,
    outline: band ? bandPath(courseOf(spot), halfWidth) : '',
    inner: spot.kind === 'droplet' ? radius * 0.55 : null,
    dash: dashOf(spot),
  }
}

/** A mark whose place is not told is dashed, one on the lens has a dot between its dashes. */
const SITE_DASHES: Partial<Record<Spot['site'], string>> = { unsure: '4 3', lens: '8 4 0.1 4' }

/** One inside the filter has two. */
const INSIDE_DASH = '6 3 0.1 3 0.1 3'

function dashOf(spot: Spot): string {
  if (spot.kind === 'residue') return '9 4'
  if (spot.kind === 'soft') return '1 5'
  if (spot.inside_filter) return INSIDE_DASH
  return SITE_DASHES[spot.site] ?? ''
}
