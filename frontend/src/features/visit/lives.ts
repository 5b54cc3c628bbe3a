/** What became of a spot along the trail, in words. */
import type { Schemas, Visit } from '@/api/client'
import { fStop } from '@/shared/lib/format'
import { FATE_WORDS } from '@/shared/lib/outcomes'
import { STEP_WORDS } from '@/shared/lib/steps'

export interface NumberedFrame {
  entryId: number
  frameId: number
  number: number
  label: string
  fit: boolean
  wall: string[]
}

/** Measured frames of a visit, numbered as they lie on its trail. */
export function framesOf(visit: Visit): NumberedFrame[] {
  return visit.trail
    .flatMap((item) => (item.frame ? [{ item, frame: item.frame }] : []))
    .map(({ item, frame }, i) => ({
      entryId: item.id,
      frameId: frame.frame_id,
      number: i + 1,
      label: `Frame ${i + 1}, ${fStop(frame.f_number)}`,
      fit: frame.ready && frame.fit === true && frame.doubts.length === 0,
      wall: frame.wall,
      ready: frame.ready,
    }))
    .filter((f) => f.ready)
}

/** When it was first seen, and what each step did to it. */
export function lifeWords(life: Schemas['SpotTrail'], frames: readonly NumberedFrame[]): string[] {
  const number = (entry: number): string => {
    const found = frames.find((f) => f.entryId === entry)
    return found ? `frame ${found.number}` : 'a frame'
  }
  const first = life.traced
    ? `New in ${number(life.first)}: the frame before does not show it.`
    : `First seen in ${number(life.first)}.`
  return [
    first,
    ...life.fates.map((fate) => {
      const done = fate.steps.map((s) => STEP_WORDS[s]).join(', ')
      return `${done || 'Nothing done'}: ${FATE_WORDS[fate.status]} in ${number(fate.entry)}.`
    }),
  ]
}
