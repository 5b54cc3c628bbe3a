import type { Ref } from 'vue'
import { queries } from '@/api/queries'
import { useAsk } from '@/shared/composables/useAsk'

/** The frame's spots at another aperture; null while it is shown as taken. */
export function usePrediction(frameId: Ref<number>, aperture: Ref<number | null>) {
  const { value, error } = useAsk(
    () => (aperture.value === null ? null : queries.prediction(frameId.value, aperture.value)),
    { keeps: true },
  )
  return { prediction: value, error }
}
