import type { JobReady } from '@/api/client'
import { count } from './format'

export const untilWords = (days: number): string =>
  days === 0 ? 'today' : days === 1 ? 'tomorrow' : `in ${count(days, 'day')}`

/** What a booked job still asks for, in a few words. */
export function todoWords(job: JobReady): string {
  if (job.state === 'ready') return 'all is ready'
  if (job.state === 'later') return 'nothing is due yet'
  const bodies = job.bodies.filter(
    (b) => b.state === 'look' || b.state === 'busy' || b.state === 'clean',
  ).length
  const short = job.kit.filter((k) => !k.enough).length
  const parts = []
  if (!job.bodies.length) parts.push('no camera is named for it')
  if (bodies) parts.push(`${count(bodies, 'camera')} to check`)
  if (short) parts.push(`${count(short, 'thing')} to buy${job.state === 'late' ? ', not all in time' : ''}`)
  return parts.join(', ')
}
