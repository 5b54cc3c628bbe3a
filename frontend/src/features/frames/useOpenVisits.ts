import { computed } from 'vue'
import { queries } from '@/api/queries'
import { useAsk } from '@/shared/composables/useAsk'

const EVERY_MS = 3000

/** Visits still open, looked at again now and then. */
export function useOpenVisits() {
  const { value } = useAsk(queries.openVisits, { everyMs: () => EVERY_MS })
  return { visits: computed(() => value.value ?? []) }
}
