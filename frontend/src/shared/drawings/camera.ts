import type { Guide } from '@/api/client'

/** What a drawing shows: the state of the camera and the tool, as the guide's own model has them. */
export type Scene = NonNullable<Guide['instructions'][number]['scene']>
export type Access = Scene['access']
export type Item = NonNullable<Scene['tool']>

/** Half the sides and the depths of a camera cut open, two units a millimetre.
 *
 * The mount's plane is y = 0 and light comes from above; the camera's top is at +x. */
export interface Shape {
  /** From the mount to the glass. */
  glass: number
  /** From the mount to the camera's back. */
  thick: number
  /** Half the camera's height. */
  half: number
  /** What stands out at its top. */
  hump: number
  /** Half the opening. */
  throat: number
}

export const SHAPES: Record<Access, Shape> = {
  mirrorless: { glass: 38, thick: 72, half: 84, hump: 0, throat: 48 },
  mirror: { glass: 84, thick: 118, half: 84, hump: 26, throat: 48 },
  fixed_mirror: { glass: 84, thick: 118, half: 84, hump: 26, throat: 48 },
  fixed_lens: { glass: 40, thick: 62, half: 66, hump: 0, throat: 40 },
  digital_back: { glass: 10, thick: 46, half: 84, hump: 0, throat: 58 },
}

/** Half the glass, short side and long side. */
export const GLASS = { across: 26, along: 38 }
export const LENS_LENGTH = 92
export const TABLE_Y = 322
export const MIDDLE_X = 240

export interface Placing {
  x: number
  y: number
  turn: number
}

/** Where the mount's middle lies and how the camera is turned. */
export function placing(access: Access, lies: Scene['lies'], x = MIDDLE_X): Placing {
  const { thick, half } = SHAPES[access]
  if (lies === 'back') return { x, y: TABLE_Y - thick, turn: 0 }
  if (lies === 'down') return { x, y: 24 + thick, turn: 180 }
  return { x: x + 60, y: TABLE_Y - half, turn: -90 }
}

/** How far along the glass a tilted tool's tip can go before its handle meets the mount. */
export function reach(access: Access, tilt_deg: number): [number, number] {
  const { glass, throat } = SHAPES[access]
  const lean = glass * Math.tan((tilt_deg * Math.PI) / 180)
  return [-GLASS.along + 4, Math.max(-GLASS.along + 12, Math.min(GLASS.along - 4, throat - 6 - lean))]
}

/** Acts done away from the camera. */
export const WITHOUT_CAMERA: ReadonlySet<Scene['act']> = new Set<Scene['act']>([
  'gather',
  'clear',
  'charge',
  'ready_tip',
  'unwrap',
  'fold',
  'lens_look',
  'lens_air',
  'lens_brush',
  'lens_wipe',
])

/** Acts whose point is the power. */
export const POWERS: ReadonlySet<Scene['act']> = new Set<Scene['act']>([
  'power_on',
  'power_off',
  'battery_out',
  'menu_open',
])

/** The part of the sheet that a drawing fills: `x y width height`. */
export function framing(scene: Scene): string {
  const { thick } = SHAPES[scene.access]
  const { act, lies } = scene
  if (WITHOUT_CAMERA.has(act) || act === 'wet' || act === 'even') return '20 60 440 275'
  if (POWERS.has(act)) return lies === 'down' ? '30 0 460 320' : '30 10 450 320'
  if (lies === 'back') return thick > 100 ? '70 30 340 300' : '90 76 300 254'
  if (lies === 'down')
    return act === 'air' || act === 'open' ? `70 4 340 ${thick > 100 ? 320 : 270}` : '70 4 340 230'
  return '20 20 440 310'
}
