import { ref, watch, type Ref } from 'vue'
import { answer, api, type MountView, type Pose } from '../api/client'

/** A frame's map as seen facing the mount. */
export function useMount(frameId: Ref<number>, pose: Ref<Pose>, worksAt: Ref<number>, grip: Ref<boolean>) {
  const mount = ref<MountView | null>(null)
  const error = ref('')
  watch([frameId, pose, worksAt, grip], async ([frame_id, wanted, works_at, has]) => {
    try {
      const found = await answer(
        api.GET('/api/frames/{frame_id}/mount', {
          params: { path: { frame_id }, query: { pose: wanted, works_at, grip: has } },
        }),
      )
      if (frameId.value === frame_id && pose.value === wanted) mount.value = found as MountView
      error.value = ''
    } catch (problem) {
      mount.value = null
      error.value = (problem as Error).message
    }
  }, { immediate: true })
  return { mount, error }
}
