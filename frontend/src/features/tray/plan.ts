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
