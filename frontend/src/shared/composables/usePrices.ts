import { computed } from 'vue'
import { queries } from '@/api/queries'
import { useAsk } from './useAsk'

/** What the service and a membership charge, and the currency that prices are in. */
export function usePrices() {
  const { value, error } = useAsk(queries.prices)
  return { prices: value, currency: computed(() => value.value?.currency ?? '€'), error }
}
