import { nextTick, ref } from 'vue'
import { expect, test } from 'vitest'
import { leftWords } from '@/shared/lib/format'
import { useTimeLeft } from './useTimeLeft'

test('time left follows from how fast it went, and is not guessed too soon', async () => {
  let now = 0
  const progress = ref<number | null>(0)
  const left = useTimeLeft(progress, () => now)
  expect(left.value).toBe('')
  now = 1000
  progress.value = 0.01
  await nextTick()
  expect(left.value).toBe('')
  now = 60_000
  progress.value = 0.25
  await nextTick()
  expect(left.value).toBe('about 3 min left')
  progress.value = null
  await nextTick()
  expect(left.value).toBe('')
})

test('a second run does not reckon with the first', async () => {
  let now = 0
  const progress = ref<number | null>(0.9)
  const left = useTimeLeft(progress, () => now)
  now = 10_000
  progress.value = 0
  await nextTick()
  now = 20_000
  progress.value = 0.5
  await nextTick()
  expect(left.value).toBe('about 10 s left')
})

test('seconds, minutes and hours in digits that mean something', () => {
  expect([4, 34, 200, 9000].map(leftWords)).toEqual([
    'a few seconds left',
    'about 40 s left',
    'about 3 min left',
    'about 3 h left',
  ])
})
