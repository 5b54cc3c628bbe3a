import type { Kind, Spot } from '@/api/client'
import { fStop, micrometres, pixels } from './format'

export const KINDS: readonly Kind[] = ['speck', 'fibre', 'droplet', 'residue', 'soft']

export const KIND_WORDS: Record<Kind, string> = {
  speck: 'Speck',
  fibre: 'Fibre',
  droplet: 'Droplet',
  residue: 'Residue',
  soft: 'Soft blob',
}

export const KIND_HINTS: Record<Kind, string> = {
  speck: 'A small solid particle',
  fibre: 'A long thin thread: lint or hair',
  droplet: 'A ring with a lighter middle: oil or spit',
  residue: 'A pale smear left by fluid',
  soft: 'Large and vague: on the rear lens glass, not the sensor',
}

const SITE_WORDS: Record<Spot['site'], string> = {
  sensor: 'On the sensor',
  lens: 'On the lens',
  scene: 'On the target, not the camera',
  unsure: 'Sensor or lens, one frame cannot tell',
}

/** Where a spot lies. */
export function placeWords(spot: Pick<Spot, 'site' | 'inside_filter'>): string {
  return spot.inside_filter ? 'Inside the filter, out of reach' : SITE_WORDS[spot.site]
}

/** A spot in one line, as a screen reader says it. */
export function spotWords(spot: Spot): string {
  const wide = spot.outer_um === null ? pixels(spot.outer_px) : micrometres(spot.outer_um)
  const seen =
    spot.shows_from_f === null ? 'visible at no aperture' : `visible from ${fStop(spot.shows_from_f)}`
  return [KIND_WORDS[spot.kind], `shadow ${wide} wide`, seen, placeWords(spot).toLowerCase(), spot.zone]
    .filter(Boolean)
    .join(', ')
}

/** The spot to go to with an arrow key: the nearest that lies that way. */
export function nextSpot<T extends { x: number; y: number }>(
  spots: readonly T[],
  from: T,
  key: string,
): T | null {
  const way = WAYS[key]
  if (!way) return null
  let best: T | null = null
  let least = Infinity
  for (const spot of spots) {
    const [dx, dy] = [spot.x - from.x, spot.y - from.y]
    const ahead = dx * way[0] + dy * way[1]
    const aside = Math.abs(dx * way[1] - dy * way[0])
    if (spot === from || aside > CONE * ahead) continue
    const cost = ahead + aside
    if (cost < least) [best, least] = [spot, cost]
  }
  return best
}
/** Every way has a little more than its quarter, so that every spot is reached. */
const CONE = 1.2
const WAYS: Record<string, readonly [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
}

export const STOPS = [2.8, 4, 5.6, 8, 11, 16, 22, 32] as const

export interface SpotFilter {
  kinds: readonly Kind[]
  showsAt: number | null
}

/** Spots of the chosen kinds that anyone would notice at the chosen aperture. */
export function filterSpots(spots: readonly Spot[], filter: SpotFilter): Spot[] {
  return spots.filter((spot) => {
    if (filter.kinds.length > 0 && !filter.kinds.includes(spot.kind)) return false
    if (filter.showsAt === null) return true
    return spot.shows_from_f !== null && spot.shows_from_f <= filter.showsAt
  })
}

/** How many spots there are of each kind, kinds without any left out. */
export function countKinds(spots: readonly Spot[]): { kind: Kind; count: number }[] {
  return KINDS.map((kind) => ({ kind, count: spots.filter((s) => s.kind === kind).length })).filter(
    (entry) => entry.count > 0,
  )
}
