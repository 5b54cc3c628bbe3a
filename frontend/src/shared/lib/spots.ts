import type { Kind, Spot } from '@/api/client'

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

export const SITE_WORDS: Record<Spot['site'], string> = {
  sensor: 'On the sensor',
  lens: 'On the lens',
  scene: 'Part of the scene',
  unsure: 'Sensor or lens, one frame cannot tell',
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
