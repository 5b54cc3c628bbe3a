import type { JobReady } from '@/api/client'

export type JobState = JobReady['state']
export type JobOrder = 'day' | 'state' | 'name'

/** How a job stands, in words; the most pressing first. */
export const STATE_WORDS: Record<JobState, string> = {
  late: 'Not all in time',
  act: 'Something to do',
  later: 'Not due yet',
  ready: 'Ready',
}
const PRESSING = Object.keys(STATE_WORDS) as JobState[]
export const JOB_STATES: { label: string; value: JobState | 'all' }[] = [
  { label: 'All jobs', value: 'all' },
  ...PRESSING.map((value) => ({ label: STATE_WORDS[value], value })),
]
export const JOB_ORDERS: { label: string; value: JobOrder }[] = [
  { label: 'Next first', value: 'day' },
  { label: 'Most pressing first', value: 'state' },
  { label: 'By name', value: 'name' },
]

const byDay = (a: JobReady, b: JobReady): number => a.job.starts_on.localeCompare(b.job.starts_on)
const COMPARE: Record<JobOrder, (a: JobReady, b: JobReady) => number> = {
  day: byDay,
  state: (a, b) => PRESSING.indexOf(a.state) - PRESSING.indexOf(b.state) || byDay(a, b),
  name: (a, b) => a.job.name.localeCompare(b.job.name) || byDay(a, b),
}

/** The jobs that carry the words in their name, note or a camera's name, and stand as asked; in an order. */
export function jobsWanted(
  jobs: readonly JobReady[],
  words: string,
  state: JobState | 'all',
  order: JobOrder,
): JobReady[] {
  const sought = words.trim().toLowerCase()
  return jobs
    .filter((j) => state === 'all' || j.state === state)
    .filter((j) =>
      [j.job.name, j.job.note ?? '', ...j.bodies.map((b) => b.name)].some((text) =>
        text.toLowerCase().includes(sought),
      ),
    )
    .sort(COMPARE[order])
}
