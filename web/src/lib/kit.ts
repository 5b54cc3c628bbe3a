import type { KitItem } from '../api/client'

export type ItemName = KitItem['item']

export const ITEM_WORDS: Record<ItemName, string> = {
  bulb_blower: 'Rubber bulb blower', electric_blower: 'Electric blower', gas_can: 'Gas can', charged_brush: 'Sensor brush',
  lens_brush: 'Lens brush', gel_stick: 'Gel stick', silicone_pad: 'Silicone pad', dry_swab: 'Dry swab', wet_swab: 'Swab for fluid',
  corner_swab: 'Corner swab', sterile_pad: 'Sterile pad', moist_wipe: 'Moist wipe', fluid: 'Fluid', lens_wipe: 'Lens wipe', cloth: 'Cloth',
  carbon_pen: 'Carbon-tip pen', tweezers: 'Tweezers', loupe: 'Loupe', cross_driver_0: 'Cross-head driver, size 0', screw_tray: 'Screw tray',
  lint_free_bud: 'Lint-free bud',
}

export const FLUID_WORDS: Record<string, string> = {
  mild: 'Mild', oil_dissolving: 'Oil-dissolving', fast_drying: 'Fast-drying alcohol', alcohol_free: 'Alcohol-free', pure_water: 'Pure water',
}

export const NEVER_ON_SENSOR: ReadonlySet<ItemName> = new Set(['lens_brush', 'lens_wipe', 'cloth', 'carbon_pen', 'tweezers'])
const COUNTED: ReadonlySet<ItemName> = new Set(['dry_swab', 'wet_swab', 'corner_swab', 'sterile_pad', 'moist_wipe', 'lens_wipe', 'lint_free_bud'])
const PATCHED: ReadonlySet<ItemName> = new Set(['gel_stick', 'silicone_pad'])
const WIDE: ReadonlySet<ItemName> = new Set(['dry_swab', 'wet_swab'])

export const isCounted = (name: ItemName): boolean => COUNTED.has(name)
export const isPatched = (name: ItemName): boolean => PATCHED.has(name)
export const hasWidth = (name: ItemName): boolean => WIDE.has(name)

/** A thing in a few words. */
export function itemWords(item: KitItem): string {
  const parts = [ITEM_WORDS[item.item]]
  if (item.item === 'fluid' && item.kind) parts.push((FLUID_WORDS[item.kind] ?? item.kind).toLowerCase())
  if (item.tip_mm) parts.push(`tip ${item.tip_mm[0]} × ${item.tip_mm[1]} mm`)
  if (item.width_mm) parts.push(`${item.width_mm} mm`)
  return parts.join(', ')
}

/** What is left of it: swabs or fresh patches; null where it is not counted. */
export function left(item: KitItem): number | null {
  if (isPatched(item.item)) return item.fresh_patches ?? 0
  return isCounted(item.item) ? (item.quantity ?? 0) : null
}

/** The thing with more or fewer left, never below zero. */
export function changed(item: KitItem, by: number): KitItem {
  const now = Math.max(0, (left(item) ?? 0) + by)
  return isPatched(item.item) ? { ...item, fresh_patches: now } : { ...item, quantity: now }
}
