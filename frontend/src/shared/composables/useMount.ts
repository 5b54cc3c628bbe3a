import type { Ref } from 'vue'
import type { Pose } from '@/api/client'
import { queries } from '@/api/queries'
import { useAsk } from './useAsk'

/** A frame's map as seen facing the mount. */
export function useMount(frameId: Ref<number>, pose: Ref<Pose>, worksAt: Ref<number>, grip: Ref<boolean>) {
  const { value, error } = useAsk(() =>
    queries.mount(frameId.value, { pose: pose.value, works_at: worksAt.value, grip: grip.value }),
  )
  return { mount: value, error }
}
