/** Plans of compacts as they are begun. */
import type { Schemas } from '@/api/client'

type Plan = Schemas['TrayPlan']
type Stage = Plan['stages'][number]
type Screws = Stage['screws'][number]
type Ribbon = Stage['ribbons'][number]

export const SIDES: Screws['side'][] = ['left', 'right', 'top', 'bottom', 'front', 'back', 'inside']
export const LATCHES: { latch: Ribbon['latch']; words: string }[] = [
  { latch: 'flip_up', words: 'a bar that flips up' },
  { latch: 'slide_out', words: 'a bar that slides out' },
  { latch: 'push_on', words: 'a plug that is pressed on' },
]

export function blankScrews(): Screws {
  return { name: '', side: 'bottom', count: 2, thread: '', driver: '', places: [] }
}

export function blankStage(): Stage {
  return { name: '', screws: [blankScrews()], ribbons: [], clips: 0, note: '' }
}

export function blankPlan(): Plan {
  return { model: '', outline: { x_mm: 105, y_mm: 60 }, stages: [{ ...blankStage(), name: 'Back cover' }] }
}

type Point = Schemas['TrayPoint']
const NEAR_MM = 3
const STEP_MM = 2
const MOST = 40
const WAYS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
}

function within(at: Point, outline: Point): Point {
  const kept = (v: number, most: number): number => Math.round(10 * Math.min(most, Math.max(0, v))) / 10
  return { x_mm: kept(at.x_mm, outline.x_mm), y_mm: kept(at.y_mm, outline.y_mm) }
}

/** Places with one more at a point; without the one that lies there already. */
export function toggled(places: Point[], at: Point, outline: Point): Point[] {
  const left = places.filter((p) => Math.hypot(p.x_mm - at.x_mm, p.y_mm - at.y_mm) > NEAR_MM)
  if (left.length < places.length) return left
  return places.length < MOST ? [...places, within(at, outline)] : places
}

/** A point moved by an arrow key, inside the outline; null for other keys. */
export function nudged(at: Point, key: string, outline: Point): Point | null {
  const way = WAYS[key]
  if (!way) return null
  return within({ x_mm: at.x_mm + STEP_MM * way[0], y_mm: at.y_mm + STEP_MM * way[1] }, outline)
}
