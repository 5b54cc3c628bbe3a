/** What was practised, in words. */
import type { Schemas } from '@/api/client'
import { capital, count } from '@/shared/lib/format'

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
