import type { Item } from './camera'

/** One line of a tool: its path, and what fills it. The tip is at 0, 0 and the handle goes up. */
export interface Line {
  d: string
  fill?: 'metal' | 'soft' | 'accent' | 'ink'
}

const box = (x: number, y: number, w: number, h: number, r = 2): string =>
  `M${x + r} ${y}h${w - 2 * r}q${r} 0 ${r} ${r}v${h - 2 * r}q0 ${r} ${-r} ${r}h${-(w - 2 * r)}q${-r} 0 ${-r} ${-r}v${-(h - 2 * r)}q0 ${-r} ${r} ${-r}z`

/** A swab seen edge on: a thin wedge, its cloth, and the handle. */
const swab = (half: number): Line[] => [
  { d: `M-2 0h4l${half} -34h${-4 - 2 * half}z`, fill: 'soft' },
  { d: box(-5, -150, 10, 116, 4), fill: 'metal' },
  { d: `M${-2 - half} -34h${4 + 2 * half}` },
]
/** A fingertip that points down, its end at `y`. */
const finger = (y: number): string => `M-13 ${y - 13}q0 13 13 13t13 -13v-96h-26z`
const BRUSH: Line[] = [
  { d: 'M-9 0l-4 -40h26l-4 40q-9 6 -18 0z', fill: 'soft' },
  { d: 'M-5 -4l-2 -34M0 -2v-36M5 -4l2 -34' },
  { d: box(-13, -58, 26, 18), fill: 'metal' },
  { d: box(-7, -150, 14, 92, 6) },
]
const BOTTLE: Line[] = [
  { d: 'M-4 0h8l3 -20h-14z', fill: 'soft' },
  { d: box(-24, -104, 48, 84, 8) },
  { d: 'M-24 -66q12 6 24 0t24 0' },
]

export const TOOLS: Record<Item, Line[]> = {
  bulb_blower: [
    { d: 'M-3 0h6l4 -52h-14z', fill: 'metal' },
    { d: 'M-7 -52C-30 -58 -40 -76 -40 -98S-24 -146 0 -146 40 -120 40 -98 30 -58 7 -52z' },
    { d: 'M-27 -98q0 -22 14 -32' },
  ],
  electric_blower: [
    { d: 'M-4 0h8l5 -46h-18z', fill: 'metal' },
    { d: box(-20, -122, 40, 76, 10) },
    { d: box(20, -112, 34, 22, 6), fill: 'metal' },
    { d: 'M-10 -62h20M-10 -70h20M-10 -78h20' },
  ],
  // Always upright: its own tip is at the top.
  gas_can: [
    { d: 'M0 0l-6 34' },
    { d: box(-18, 34, 26, 16, 4), fill: 'metal' },
    { d: box(-29, 50, 48, 100, 8) },
    { d: 'M-29 70h48' },
  ],
  charged_brush: BRUSH,
  lens_brush: BRUSH,
  gel_stick: [
    { d: box(-12, -18, 24, 18, 4), fill: 'accent' },
    { d: box(-8, -30, 16, 12), fill: 'metal' },
    { d: box(-5, -150, 10, 120, 4) },
  ],
  silicone_pad: [
    { d: box(-22, -12, 44, 12, 4), fill: 'accent' },
    { d: box(-8, -60, 16, 48, 6), fill: 'metal' },
  ],
  dry_swab: swab(6),
  wet_swab: swab(6),
  corner_swab: [
    { d: 'M-1 0h2l4 -26h-10z', fill: 'soft' },
    { d: box(-3, -150, 6, 124, 3), fill: 'metal' },
  ],
  sterile_pad: [
    { d: finger(-5) },
    { d: 'M-18 -26v12q2 14 18 14t18 -14v-12l-7 5 -6 -5 -5 5 -5 -5 -6 5z', fill: 'soft' },
  ],
  moist_wipe: [{ d: finger(-9) }, { d: box(-30, -10, 60, 10, 3), fill: 'soft' }, { d: 'M-30 -5h60' }],
  cloth_wand: [
    { d: 'M-3 0h6l7 -44h-20z', fill: 'soft' },
    { d: 'M-8 -30h16M-7 -20h14' },
    { d: box(-10, -56, 20, 12, 3), fill: 'metal' },
    { d: box(-6, -150, 12, 94, 4) },
  ],
  fluid: BOTTLE,
  lens_wipe: [{ d: finger(-9) }, { d: 'M-26 -4q6 6 13 2t13 0 13 0 13 -2l-4 -12h-44z', fill: 'soft' }],
  cloth: [{ d: 'M-40 0h80v-44h-80z', fill: 'soft' }, { d: 'M-40 -22h80M0 -44v44' }],
  carbon_pen: [{ d: 'M-9 0h18v-10h-18z', fill: 'ink' }, { d: box(-7, -130, 14, 120, 5) }],
  tweezers: [{ d: 'M0 0l-4 -50q-10 -50 4 -90q14 40 4 90z', fill: 'metal' }, { d: 'M0 -20v-100' }],
  loupe: [
    { d: 'M-26 0h52l-6 -50h-40z', fill: 'soft' },
    { d: box(-26, -74, 52, 24, 6), fill: 'metal' },
  ],
  cross_driver_0: [
    { d: 'M-3 0h6v-60h-6z', fill: 'metal' },
    { d: box(-13, -140, 26, 80, 8) },
    { d: 'M-5 -132v64M5 -132v64' },
  ],
  screw_tray: [{ d: 'M-46 -30h92l-8 30h-76z', fill: 'metal' }, { d: 'M-15 -30l-2 30M15 -30l2 30' }],
  lint_free_bud: [{ d: 'M0 0q-9 -2 -9 -14t9 -16q9 4 9 16t-9 14z', fill: 'soft' }, { d: 'M0 -30v-110' }],
}

/** Whose tip points up as it stands. */
export const UPRIGHT: ReadonlySet<Item> = new Set<Item>(['gas_can'])
/** Tools held tilted and drawn along the glass. */
export const TILTED: ReadonlySet<Item> = new Set<Item>(['dry_swab', 'wet_swab', 'corner_swab', 'cloth_wand'])
