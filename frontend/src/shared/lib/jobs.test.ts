import { expect, test } from 'vitest'
import type { JobReady } from '@/api/client'
import { todoWords, untilWords } from './jobs'

const job = (state: string, bodies: string[], enough: boolean[] = []): JobReady =>
  ({
    state,
    bodies: bodies.map((b) => ({ state: b })),
    kit: enough.map((e) => ({ enough: e })),
  }) as unknown as JobReady

test('days until a job read as people say them', () => {
  expect([0, 1, 2, 30].map(untilWords)).toEqual(['today', 'tomorrow', 'in 2 days', 'in 30 days'])
})

test('what a job still asks for is counted', () => {
  expect(todoWords(job('ready', ['ready']))).toBe('all is ready')
  expect(todoWords(job('later', ['later']))).toBe('nothing is due yet')
  expect(todoWords(job('act', ['look', 'busy', 'ready'], [true]))).toBe('2 cameras to check')
  expect(todoWords(job('act', ['clean'], [false, true]))).toBe('1 camera to check, 1 thing to buy')
  expect(todoWords(job('late', ['later'], [false, false]))).toBe('2 things to buy, not all in time')
  expect(todoWords(job('act', []))).toBe('no camera is named for it')
})
