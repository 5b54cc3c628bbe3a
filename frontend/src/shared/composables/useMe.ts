import { computed } from 'vue'
import { queries } from '@/api/queries'
import { useAsk } from './useAsk'

export const ROLE_WORDS = {
  owner: 'owner',
  helper: 'helper',
  viewer: 'viewer',
  report: 'report only',
} as const

/** Who looks at the page: the machine itself, or a paired device with a role. */
export function useMe() {
  const { value: me } = useAsk(queries.me)
  return {
    me,
    shared: computed(() => me.value?.shared === true),
    isViewer: computed(() => me.value?.role === 'viewer'),
    isOwner: computed(() => (me.value?.role ?? 'owner') === 'owner'),
  }
}
