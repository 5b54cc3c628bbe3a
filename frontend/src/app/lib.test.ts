import { describe, expect, it } from 'vitest'
import type { KitItem, MountView, Spot } from '@/api/client'
import { freshBody, size } from '@/shared/lib/bodies'
import {
  alarmOf,
  back,
  counted,
  isOpen,
  isUp,
  next,
  START,
  usedIn,
  type Instruction,
} from '@/features/hands/hands'
import { amountWords, countOf, freshThing, itemWords, money, unitOf, withCount } from '@/shared/lib/kit'
import { placed, POSE_WORDS, TOP_AT } from '@/shared/lib/mount'
import { ORDERS, POINTS } from '@/shared/lib/schools'
import { barredWords, clock, isRung, RUNGS, STEP_WORDS, usualUse, useWords } from '@/shared/lib/steps'

const instruction = (text: string, more: Partial<Instruction> = {}): Instruction => ({
  text,
  heed: '',
  count: null,
  target: null,
  timer_s: null,
  opens: false,
  closes: false,
  raises: false,
  lowers: false,
  shows_plan: false,
  first: 0,
  acts: [],
  mirror: false,
  ...more,
})
const AIR = [
  instruction('lay out'),
  instruction('open', { opens: true }),
  instruction('room', { count: 'puffs' }),
  instruction('blow', { count: 'puffs' }),
  instruction('close', { closes: true }),
  instruction('retest'),
]

describe('hands-busy mode', () => {
  it('knows when the camera lies open', () => {
    expect(AIR.map((_, i) => isOpen(AIR, i))).toEqual([false, true, true, true, true, false])
  })
  it('walks forward and back within its bounds', () => {
    expect(back(START).at).toBe(0)
    let p = START
    for (let i = 0; i < 10; i++) p = next(p, AIR)
    expect(p.at).toBe(AIR.length)
  })
  it('adds up what was counted', () => {
    let p = { ...START, at: 2 }
    p = counted(counted(p, 1), 1)
    p = counted({ ...p, at: 3 }, 1)
    p = counted(p, -5)
    expect(usedIn({ ...p, openS: 61.4 }, AIR, 'air')).toEqual({ puffs: 2, opening: 'down', open_s: 61 })
    expect(usedIn(START, [], 'wet_swab')).toEqual({ swabs: 1 })
  })
})

describe('steps', () => {
  it('names every rung and what it used', () => {
    for (const rung of RUNGS) expect(STEP_WORDS[rung as keyof typeof STEP_WORDS]).toBeTruthy()
    expect(useWords({ opening: 'down', runs: 1, drops: 2, tip_bent: true, open_s: 75 })).toBe(
      'opening down, 1 run, 2 drops, tip bent, open 1:15',
    )
    expect(useWords({})).toBe('')
    expect(usualUse('wet_swab').drops).toBe(2)
    expect(usualUse('brush')).toEqual({})
    expect(isRung('stop_done')).toBe(false)
    expect(isRung('air')).toBe(true)
  })
  it('words what is barred', () => {
    expect(barredWords('wet_swab')).toBe('Wet swab')
    expect(barredWords('fluid:oil_dissolving')).toBe('Oil-dissolving fluid')
    expect(barredWords('mouth_air')).toBe('Blowing by mouth')
    expect(barredWords('cloth')).toBe('Cloth')
    expect(clock(-3)).toBe('0:00')
  })
})

describe('mount view', () => {
  const view = (matrix: number[]): MountView =>
    ({
      pose: 'standing',
      sentence: '',
      matrix,
      width_mm: 36,
      height_mm: 24,
      relevant: ['a'],
      aims: [],
    }) as unknown as MountView
  const at = (id: string, x_mm: number | null, y_mm: number | null, site = 'sensor'): Spot =>
    ({ id, x_mm, y_mm, site, kind: 'speck', outer_um: 1000 }) as unknown as Spot
  it('mirrors top and bottom of an upright camera', () => {
    const [a] = placed([at('a', 5, 3)], view([1, 0, 0, -1]))
    expect(a).toMatchObject({ x: 5, y: -3, radius: 0.5, relevant: true })
  })
  it('leaves out what has no place or is not on the sensor', () => {
    expect(placed([at('a', null, null), at('b', 1, 1, 'lens')], view([1, 0, 0, 1]))).toEqual([])
  })
  it('knows where the top shows in every pose', () => {
    expect(Object.keys(TOP_AT).sort()).toEqual(Object.keys(POSE_WORDS).sort())
  })
})

describe('kit, bodies, schools', () => {
  it('counts each thing in its own unit', () => {
    const swab: KitItem = { item: 'dry_swab', quantity: 1, width_mm: 24 }
    expect(countOf(withCount(swab, 0))).toBe(0)
    expect(countOf(withCount({ item: 'gel_stick', fresh_patches: 4 }, 3))).toBe(3)
    expect([unitOf('dry_swab'), unitOf('gel_stick'), unitOf('fluid'), unitOf('loupe')]).toEqual([
      'piece',
      'patch',
      'ml',
      null,
    ])
    expect(amountWords(9.95, 'ml')).toBe('9.9 ml')
    expect([amountWords(1, 'patch'), amountWords(3, 'piece')]).toEqual(['1 patch', '3'])
    expect(freshThing('fluid').item).toEqual({ item: 'fluid', kind: 'mild', quantity: 15 })
    expect(itemWords({ item: 'loupe', focus_mm: [38, 46] })).toBe('Loupe, focuses 38 to 46 mm')
    expect([money(2.5, '€'), money(null, '€')]).toEqual(['€ 2.50', '–'])
    expect(itemWords({ item: 'fluid', kind: 'oil_dissolving' })).toBe('Fluid, oil-dissolving')
    expect(itemWords(swab)).toBe('Dry swab, 24 mm')
  })
  it('starts a body with nothing assumed of its stabiliser', () => {
    expect(freshBody().stabilised).toBeNull()
    expect(size(freshBody())).toBe('36 × 24 mm')
  })
  it('gives every point a usual side and a reason for each', () => {
    for (const point of POINTS) {
      expect(point.sides.some((s) => s.value === point.usual)).toBe(true)
      for (const side of point.sides) expect(side.reason.length).toBeGreaterThan(10)
    }
    expect(ORDERS[0]?.order).toBeNull()
  })
})

describe('the mirror lock-up', () => {
  const steps = [
    instruction('wash'),
    instruction('lock up', { raises: true }),
    instruction('open', { opens: true }),
    instruction('down', { lowers: true }),
    instruction('retest'),
  ]
  it('is up from the instruction after it was raised until it was lowered', () => {
    expect(steps.map((_, i) => isUp(steps, i))).toEqual([false, false, true, true, false])
  })
  it('warns well before the battery is out, and never without a note', () => {
    const power = { lasts_s: 600, warn_s: 300, stop_s: 450, why: '' }
    expect([299, 300, 449, 450].map((s) => alarmOf(power, s))).toEqual(['none', 'warn', 'warn', 'stop'])
    expect(alarmOf({ lasts_s: null, warn_s: null, stop_s: null, why: '' }, 9999)).toBe('none')
    expect(alarmOf(null, 9999)).toBe('none')
  })
  it('logs the swabs that the plan has', () => {
    expect(usedIn(START, [], 'dry_swab', 2)).toEqual({ swabs: 2 })
  })
})
