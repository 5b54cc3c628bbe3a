import type { KitItem, KitEntry } from '@/api/client'

export type ItemName = KitItem['item']

export const ITEM_WORDS: Record<ItemName, string> = {
  bulb_blower: 'Rubber bulb blower',
  electric_blower: 'Electric blower',
  gas_can: 'Gas can',
  charged_brush: 'Sensor brush',
  lens_brush: 'Lens brush',
  gel_stick: 'Gel stick',
  silicone_pad: 'Silicone pad',
  dry_swab: 'Dry swab',
  wet_swab: 'Wet swab',
  corner_swab: 'Corner swab',
  sterile_pad: 'Sterile pad',
  moist_wipe: 'Moist wipe',
  fluid: 'Fluid',
  lens_wipe: 'Lens wipe',
  cloth: 'Cloth',
  carbon_pen: 'Carbon-tip pen',
  tweezers: 'Tweezers',
  cloth_wand: 'Cloth wand',
  loupe: 'Loupe',
  cross_driver_0: 'Cross-head driver, size 0',
  screw_tray: 'Screw tray',
  lint_free_bud: 'Lint-free bud',
}

export const FLUID_WORDS: Record<string, string> = {
  mild: 'Mild',
  oil_dissolving: 'Oil-dissolving',
  fast_drying: 'Fast-drying alcohol',
  alcohol_free: 'Alcohol-free',
  pure_water: 'Pure water',
}

export const NEVER_ON_SENSOR: ReadonlySet<ItemName> = new Set([
  'lens_brush',
  'lens_wipe',
  'cloth',
  'carbon_pen',
  'tweezers',
])
const COUNTED: ReadonlySet<ItemName> = new Set([
  'dry_swab',
  'wet_swab',
  'corner_swab',
  'sterile_pad',
  'moist_wipe',
  'lens_wipe',
  'lint_free_bud',
  'cloth_wand',
])
const PATCHED: ReadonlySet<ItemName> = new Set(['gel_stick', 'silicone_pad'])
const WIDE: ReadonlySet<ItemName> = new Set(['dry_swab', 'wet_swab', 'cloth_wand'])

export const isCounted = (name: ItemName): boolean => COUNTED.has(name)
export const isPatched = (name: ItemName): boolean => PATCHED.has(name)
export const hasWidth = (name: ItemName): boolean => WIDE.has(name)

/** What a thing is counted in; null for what lasts. */
export function unitOf(name: ItemName): 'piece' | 'patch' | 'ml' | null {
  if (COUNTED.has(name)) return 'piece'
  if (PATCHED.has(name)) return 'patch'
  return name === 'fluid' ? 'ml' : null
}

/** A thing in a few words; `mm` writes a length in the chosen units. */
export function itemWords(item: KitItem, mm: (value: number) => string = (v) => `${v} mm`): string {
  const parts = [ITEM_WORDS[item.item]]
  if (item.item === 'fluid' && item.kind) parts.push((FLUID_WORDS[item.kind] ?? item.kind).toLowerCase())
  if (item.tip_mm) parts.push(`tip ${mm(item.tip_mm[0]).replace(/ \w+$/, '')} × ${mm(item.tip_mm[1])}`)
  if (item.width_mm) parts.push(mm(item.width_mm))
  if (item.focus_mm)
    parts.push(`focuses ${mm(item.focus_mm[0]).replace(/ \w+$/, '')} to ${mm(item.focus_mm[1])}`)
  return parts.join(', ')
}

const UNIT_WORDS = { piece: ['', ''], patch: ['patch', 'patches'], ml: ['ml', 'ml'], one: ['', ''] } as const

/** An amount with its unit, in sensible digits. */
export function amountWords(amount: number, unit: keyof typeof UNIT_WORDS | null): string {
  const value = String(Number(amount.toFixed(unit === 'ml' ? 1 : 2)))
  const word = unit ? UNIT_WORDS[unit][amount === 1 ? 0 : 1] : ''
  return word ? `${value} ${word}` : value
}

/** The count of a thing set anew, in the field it is kept in. */
export function withCount(item: KitItem, count: number | null): KitItem {
  return unitOf(item.item) === 'patch' ? { ...item, fresh_patches: count } : { ...item, quantity: count }
}

export function countOf(item: KitItem): number | null {
  return (unitOf(item.item) === 'patch' ? item.fresh_patches : item.quantity) ?? null
}

/** A thing of this name as one usually buys it, to begin from. */
export function freshThing(item: ItemName): KitEntry {
  const usual: KitItem = { item }
  if (isCounted(item)) usual.quantity = 10
  if (isPatched(item)) Object.assign(usual, { fresh_patches: 20, tip_mm: [8, 6] })
  if (hasWidth(item)) usual.width_mm = 24
  if (item === 'fluid') Object.assign(usual, { kind: 'mild', quantity: 15 })
  return {
    item: usual,
    note: '',
    source: '',
    suits: null,
    pack_size: null,
    pack_price: null,
    opened_on: null,
    best_before: null,
    lead_days: null,
  }
}

/** Money in the owner's currency. */
export function money(value: number | null | undefined, currency: string): string {
  return value == null ? '–' : `${currency} ${value.toFixed(2)}`
}
