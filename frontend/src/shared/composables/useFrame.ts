import { computed, ref, watch, type Ref } from 'vue'
import { answer, api, type Job } from '@/api/client'
import { queries } from '@/api/queries'
import { useAsk } from './useAsk'
import { useJob } from './useJob'
import { useTell } from './useTell'

const ASKS_MS = 4000

/** One frame with its map; waits for its job when it is still being measured. */
export function useFrame(id: Ref<number>) {
  const frame = useAsk(() => queries.frame(id.value), {
    // Another frame may tell meanwhile whose it is.
    everyMs: (found) => (found?.frame.asks_camera ? ASKS_MS : false),
  })
  const ended = ref('')
  const { job, follow, stop } = useJob(
    (last) => {
      ended.value = last.state === 'failed' ? (last.error ?? '') : ''
      void frame.again()
    },
    () => void frame.again(),
  )
  const { tell, error: refused } = useTell<Job>((started) => {
    ended.value = ''
    follow(started)
  })
  const path = () => ({ params: { path: { frame_id: id.value } } })

  async function setSensor(width_mm: number, height_mm: number): Promise<void> {
    await tell(() =>
      answer(api.PUT('/api/frames/{frame_id}/sensor', { ...path(), body: { width_mm, height_mm } })),
    )
  }

  async function measureAgain(): Promise<void> {
    await tell(() => answer(api.POST('/api/frames/{frame_id}/measure', path())))
  }

  watch(id, () => {
    stop()
    ended.value = ''
  })
  watch(
    frame.value,
    (found) => {
      const latest = found?.job
      const open = latest && (latest.state === 'queued' || latest.state === 'running')
      if (open && job.value?.id !== latest.id) follow(latest)
    },
    { immediate: true },
  )
  const error = computed(
    () =>
      refused.value ||
      frame.error.value ||
      ended.value ||
      (job.value ? '' : (frame.value.value?.frame.trouble ?? '')),
  )
  return { detail: frame.value, error, job, setSensor, load: frame.again, follow, measureAgain }
}
