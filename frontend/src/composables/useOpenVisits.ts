import { onMounted, onScopeDispose, ref } from 'vue'
import { answer, api, type OpenVisit } from '../api/client'

const EVERY_MS = 3000

/** Visits still open, looked at again now and then. */
export function useOpenVisits() {
  const visits = ref<OpenVisit[]>([])

  async function load(): Promise<void> {
    try {
      visits.value = await answer(api.GET('/api/visits'))
    } catch {
      // The frames beside them show the error; nothing to add.
    }
  }

  const timer = setInterval(() => void load(), EVERY_MS)
  onMounted(() => void load())
  onScopeDispose(() => clearInterval(timer))
  return { visits }
}
