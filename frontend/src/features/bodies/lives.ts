/** The life of a spot through all frames of a camera, in words. */
import type { Schemas } from '@/api/client'
import { count, day } from '@/shared/lib/format'
import { STEP_WORDS } from '@/shared/lib/steps'

type Life = Schemas['SpotHistory']
type Point = Schemas['CountPoint']

export function markKey(frameId: number, spot: string | null): string {
  return `${frameId}:${spot ?? ''}`
}

/** Lives by the marks of their frames; one that went is also found by its mark in the frame before. */
export function livesByMark(lives: readonly Life[]): Map<string, Life> {
  return new Map(
    lives.flatMap((life) =>
      life.sightings.filter((s) => s.spot !== null).map((s) => [markKey(s.frame_id, s.spot), life]),
    ),
  )
}

export interface LifeEvent {
  /** Of the frame, among the points. */
  index: number
  words: string
}

const BEGINS = { first: 'First seen', new: 'New' } as const

/** When it came, what moved it, what took it; frames in which it only stayed are told together. */
export function lifeWords(
  life: Life,
  points: readonly Point[],
  steps: readonly Schemas['StepMark'][],
): LifeEvent[] {
  const events: LifeEvent[] = []
  let stayed = 0
  const tellStayed = (): void => {
    const last = events[events.length - 1]
    if (last && stayed) last.words += `, stayed in ${count(stayed, 'frame')} after it`
    stayed = 0
  }
  for (const { frame_id, seen } of life.sightings) {
    const index = points.findIndex((p) => p.frame_id === frame_id)
    const point = points[index]
    if (!point) continue
    if (seen === 'stayed') {
      stayed += 1
      continue
    }
    tellStayed()
    const what = seen === 'gone' ? 'Removed' : seen === 'moved' ? 'Moved' : BEGINS[seen]
    const done = seen === 'gone' || seen === 'moved' ? between(steps, points[index - 1], point) : ''
    events.push({ index, words: `${what} ${day(point.at)}${done && `: ${done}`}` })
  }
  tellStayed()
  return events
}

function between(steps: readonly Schemas['StepMark'][], from: Point | undefined, to: Point): string {
  return steps
    .filter((s) => s.visit_id === to.visit_id && s.at <= to.at && (!from || s.at >= from.at))
    .map((s) => STEP_WORDS[s.step as keyof typeof STEP_WORDS].toLowerCase())
    .join(', ')
}
