/** What was practised, in words. */
import type { Schemas } from '@/api/client'
import { capital, count } from '@/shared/lib/format'

export type PracticeRoute =
  'practice-frames' | 'practice-places' | 'practice-moves' | 'practice-hand' | 'practice-clean'

export type ExerciseName = Schemas['Progress']['exercise']

/** In the order in which a beginner meets them. */
export const EXERCISES: { exercise: ExerciseName; name: string; words: string; to: PracticeRoute }[] = [
  {
    exercise: 'frames',
    name: 'Read the frame',
    words: 'Dust, lens, wall or hot pixel?',
    to: 'practice-frames',
  },
  {
    exercise: 'places',
    name: 'Find the place',
    words: 'From the picture to the sensor, as you face the mount.',
    to: 'practice-places',
  },
  { exercise: 'moves', name: 'Next move', words: 'A situation: what comes next?', to: 'practice-moves' },
  {
    exercise: 'hand',
    name: 'The hand',
    words: 'Lead a swab or a gel stick over a drawn sensor.',
    to: 'practice-hand',
  },
  {
    exercise: 'clean',
    name: 'A whole clean',
    words: 'One invented camera, from first frame to verdict.',
    to: 'practice-clean',
  },
]

/** The exercise to propose: the first that was never tried, else the one that goes worst. */
export function proposed(all: readonly Schemas['Progress'][]): ExerciseName | null {
  const tried = (p: Schemas['Progress']): number => p.topics.reduce((n, t) => n + t.tries, 0)
  const right = (p: Schemas['Progress']): number => p.topics.reduce((n, t) => n + t.right, 0) / tried(p)
  const byOrder = EXERCISES.flatMap((e) => all.filter((p) => p.exercise === e.exercise))
  const fresh = byOrder.find((p) => !tried(p))
  if (fresh) return fresh.exercise
  return (
    byOrder.reduce<Schemas['Progress'] | null>(
      (worst, p) => (worst === null || right(p) < right(worst) ? p : worst),
      null,
    )?.exercise ?? null
  )
}

export function topicWords(t: Schemas['TopicProgress']): string {
  if (!t.tries) return 'not tried yet'
  const unsafe = t.unsafe ? `, ${t.unsafe} unsafe` : ''
  return `${t.right} of ${t.tries} right${unsafe}`
}

export function tryWords(t: Schemas['TryShown']): string {
  const how = t.unsafe ? 'unsafe' : t.right ? 'right' : 'not the advice'
  const off = t.error_mm === null ? how : `${t.error_mm.toFixed(1)} mm off`
  return `${capital(t.topic)}: ${off}, ${count(Math.round(t.seconds), 'second')}`
}

/** The level that a topic names; null where it names none. */
export function levelIn(topic: string): number | null {
  const found = /^level (\d+)$/.exec(topic)
  return found ? Number(found[1]) : null
}

export type MarkKind = Schemas['MarkTruth']['kind']

export const MARK_WORDS: Record<MarkKind, string> = {
  speck: 'speck',
  fibre: 'fibre',
  droplet: 'droplet',
  residue: 'residue',
  lens: 'lens',
  wall: 'wall',
  hot: 'hot pixel',
}

/** How hard a hand bears where the device does not tell, in newtons. */
export const FORCES = [
  { words: 'Barely', force_n: 0.1 },
  { words: 'Like a pencil', force_n: 0.6 },
  { words: 'Firm', force_n: 1.5 },
] as const

const FULL_PRESS_N = 2
const RIGHT_ANGLE = 90

/** What a pointer tells of the hand: a pen its pressure and tilt, others nothing. */
export function hold(
  event: Pick<PointerEvent, 'pointerType' | 'pressure' | 'tiltX' | 'tiltY'>,
  chosen_n: number,
): { force_n: number; tilt_deg: number | null } {
  if (event.pointerType !== 'pen') return { force_n: chosen_n, tilt_deg: null }
  const tilted = Math.max(Math.abs(event.tiltX), Math.abs(event.tiltY))
  return { force_n: FULL_PRESS_N * event.pressure, tilt_deg: tilted ? RIGHT_ANGLE - tilted : null }
}

/** A clock for one exercise: seconds since it began. */
export function stopwatch(now: () => number = () => performance.now()): () => number {
  const begun = now()
  return () => (now() - begun) / 1000
}

/** How an error reads to somebody with a tool in the hand. */
export function errorWords(mm: number, right: boolean): string {
  const off = `${mm.toFixed(1)} mm off`
  return right ? `${off}: the tool would meet it.` : `${off}: the tool would miss it.`
}
