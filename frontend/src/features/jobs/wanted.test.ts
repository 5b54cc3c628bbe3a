import { expect, test } from 'vitest'
import type { JobReady } from '@/api/client'
import { jobsWanted, type JobState } from './wanted'

const job = (name: string, starts_on: string, state: JobState, ...bodies: string[]): JobReady =>
  ({
    job: { name, starts_on, note: name === 'Charts' ? 'Annex' : null },
    state,
    bodies: bodies.map((b) => ({ name: b })),
  }) as unknown as JobReady
const jobs = [
  job('Tides', '2026-03-04', 'ready', 'Stand one'),
  job('Charts', '2026-01-02', 'act', 'Stand two'),
  job('Logs', '2026-02-03', 'late'),
]
const names = (...wanted: [string, JobState | 'all', 'day' | 'state' | 'name']): string[] =>
  jobsWanted(jobs, ...wanted).map((j) => j.job.name)

test('jobs come by day, by how they press, or by name', () => {
  expect(names('', 'all', 'day')).toEqual(['Charts', 'Logs', 'Tides'])
  expect(names('', 'all', 'state')).toEqual(['Logs', 'Charts', 'Tides'])
  expect(names('', 'all', 'name')).toEqual(['Charts', 'Logs', 'Tides'])
})

test('jobs are found by name, note or camera, and by how they stand', () => {
  expect(names('tid', 'all', 'day')).toEqual(['Tides'])
  expect(names(' annex ', 'all', 'day')).toEqual(['Charts'])
  expect(names('stand', 'all', 'day')).toEqual(['Charts', 'Tides'])
  expect(names('', 'late', 'day')).toEqual(['Logs'])
  expect(names('tid', 'late', 'day')).toEqual([])
})
