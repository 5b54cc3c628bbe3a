import { ref, watch, type Ref } from 'vue'
import { answer, api, type Prediction } from '../api/client'

/** The frame's spots at another aperture; null while it is shown as taken. */
export function usePrediction(frameId: Ref<number>, aperture: Ref<number | null>) {
  const prediction = ref<Prediction | null>(null)
  const error = ref('')

  watch([frameId, aperture], async ([id, f]) => {
    if (f === null) {
      prediction.value = null
      return
    }
    try {
      const found = await answer(
        api.GET('/api/frames/{frame_id}/prediction', {
          params: { path: { frame_id: id }, query: { f } },
        }),
      )
      if (aperture.value === f && frameId.value === id) prediction.value = found
      error.value = ''
    } catch (problem) {
      error.value = (problem as Error).message
    }
  })
  return { prediction, error }
}
