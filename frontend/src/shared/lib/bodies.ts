import type { Body } from '@/api/client'

export const ACCESS_WORDS: Record<NonNullable<Body['access']>, string> = {
  mirror: 'Mirror',
  fixed_mirror: 'Mirror raised by hand',
  mirrorless: 'Mirrorless',
  fixed_lens: 'Lens does not come off',
  digital_back: 'Digital back',
}

/** Usual sensor formats by the names people know, with their dimensions in millimetres. */
export const FORMAT_NAMES: readonly { name: string; size: readonly [number, number] }[] = [
  { name: 'Full frame', size: [36, 24] },
  { name: 'APS-C', size: [23.5, 15.6] },
  { name: 'APS-C, smaller', size: [22.3, 14.9] },
  { name: 'Four thirds', size: [17.3, 13] },
  { name: 'One inch', size: [13.2, 8.8] },
  { name: 'Medium', size: [43.8, 32.9] },
  { name: 'Medium, larger', size: [53.4, 40] },
  { name: '1/2.3 inch', size: [6.2, 4.6] },
]

export const HOLD_WORDS = {
  on: 'Power on, full battery',
  off: 'Power off',
  battery_out: 'Battery out',
} as const

export function size(body: Body): string {
  return `${body.sensor_mm[0]} × ${body.sensor_mm[1]} mm`
}

export function freshBody(): Body {
  return {
    name: '',
    camera_name: null,
    access: 'mirrorless',
    sensor_mm: [36, 24],
    stabilised: null,
    hold_rule: null,
    hold_note: '',
    self_clean: true,
    closes_when_off: null,
    filter_removed: false,
    modifier_allows: null,
    serial: '',
    shake_note: '',
    cleaning_note: '',
    latch_note: '',
    no_guarantee: false,
    serviced_on: null,
    guarantee_until: null,
    flange_mm: null,
    works_at: [8, 16],
    lockup_note: '',
    pitch_um: null,
    stack_mm: null,
  }
}
