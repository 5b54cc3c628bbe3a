import { computed, onMounted, onScopeDispose, ref } from 'vue'
import { answer, api, type Archive } from '../api/client'

const EVERY_MS = 700
const PAGE = 60

/** Frames page by page, the newest first; the first page is looked at again while work goes on. */
export function useArchive() {
  const newest = ref<Archive | null>(null)
  const older = ref<Archive['frames']>([])
  const error = ref('')
  let timer: ReturnType<typeof setTimeout> | null = null
  let gone = false

  const archive = computed<Archive | null>(() => {
    if (!newest.value) return null
    const ids = new Set(newest.value.frames.map((f) => f.id))
    return { ...newest.value, frames: [...newest.value.frames, ...older.value.filter((f) => !ids.has(f.id))] }
  })
  const left = computed(() => Math.max(0, (archive.value?.total ?? 0) - (archive.value?.frames.length ?? 0)))

  async function load(): Promise<void> {
    if (timer) clearTimeout(timer)
    try {
      newest.value = await answer(api.GET('/api/frames', { params: { query: { count: PAGE } } }))
      error.value = ''
    } catch (problem) {
      error.value = (problem as Error).message
    }
    const busy = (newest.value?.open_jobs.length ?? 0) > 0 || error.value !== ''
    if (busy && !gone) timer = setTimeout(() => void load(), EVERY_MS)
  }

  async function more(): Promise<void> {
    try {
      const query = { first: archive.value?.frames.length ?? 0, count: PAGE }
      const page = await answer(api.GET('/api/frames', { params: { query } }))
      older.value = [...older.value, ...page.frames]
    } catch (problem) {
      error.value = (problem as Error).message
    }
  }

  /** Take a frame out of sight that was just removed. */
  async function forget(frameId: number): Promise<void> {
    older.value = older.value.filter((f) => f.id !== frameId)
    await load()
  }

  onMounted(() => void load())
  onScopeDispose(() => {
    gone = true
    if (timer) clearTimeout(timer)
  })
  return { archive, left, error, load, more, forget }
}
