import { onMounted, onScopeDispose, ref } from 'vue'
import { answer, api, type Archive } from '../api/client'

const EVERY_MS = 700

/** All frames; looks again while work goes on. */
export function useArchive() {
  const archive = ref<Archive | null>(null)
  const error = ref('')
  let timer: ReturnType<typeof setTimeout> | null = null
  let gone = false

  async function load(): Promise<void> {
    if (timer) clearTimeout(timer)
    try {
      archive.value = await answer(api.GET('/api/frames'))
      error.value = ''
    } catch (problem) {
      error.value = (problem as Error).message
    }
    const busy = (archive.value?.open_jobs.length ?? 0) > 0 || error.value !== ''
    if (busy && !gone) timer = setTimeout(() => void load(), EVERY_MS)
  }

  onMounted(() => void load())
  onScopeDispose(() => {
    gone = true
    if (timer) clearTimeout(timer)
  })
  return { archive, error, load }
}
