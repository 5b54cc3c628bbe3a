import { ref, watch, type Ref } from 'vue'
import { answer, api, type FrameDetail } from '../api/client'
import { useJob } from './useJob'

/** One frame with its map; waits for its job when it is still being measured. */
export function useFrame(id: Ref<number>) {
  const detail = ref<FrameDetail | null>(null)
  const error = ref('')
  const { job, follow, stop } = useJob(
    (ended) => {
      if (ended.state === 'failed' && ended.error) error.value = ended.error
      if (ended.state !== 'failed' || !detail.value?.map) void load()
    },
    () => void load(),
  )

  async function load(): Promise<void> {
    try {
      const wanted = id.value
      const found = await answer(
        api.GET('/api/frames/{frame_id}', { params: { path: { frame_id: wanted } } }),
      )
      if (wanted !== id.value) return
      detail.value = found as FrameDetail
      error.value = ''
      const latest = found.job
      if (latest && (latest.state === 'queued' || latest.state === 'running')) follow(latest)
      else if (found.frame.trouble) error.value = found.frame.trouble
    } catch (problem) {
      error.value = (problem as Error).message
    }
  }

  async function setSensor(width_mm: number, height_mm: number): Promise<void> {
    const started = await answer(
      api.PUT('/api/frames/{frame_id}/sensor', {
        params: { path: { frame_id: id.value } },
        body: { width_mm, height_mm },
      }),
    )
    follow(started)
  }

  async function measureAgain(): Promise<void> {
    try {
      const started = await answer(api.POST('/api/frames/{frame_id}/measure', { params: { path: { frame_id: id.value } } }))
      error.value = ''
      follow(started)
    } catch (problem) {
      error.value = (problem as Error).message
    }
  }

  watch(id, () => {
    stop()
    detail.value = null
    void load()
  }, { immediate: true })
  return { detail, error, job, setSensor, load, follow, measureAgain }
}
