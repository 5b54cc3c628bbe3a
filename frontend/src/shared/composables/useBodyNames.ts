import { computed } from 'vue'
import { answer, api } from '@/api/client'
import { useAsk } from './useAsk'

const PAGE = 200

export interface BodyName {
  id: number
  name: string
}

async function everyName(signal: AbortSignal): Promise<BodyName[]> {
  const found: BodyName[] = []
  for (;;) {
    const query = { first: found.length, count: PAGE }
    const page = await answer(api.GET('/api/bodies', { signal, params: { query } }))
    found.push(...page.bodies.map((b) => ({ id: b.id, name: b.body.name })))
    if (page.bodies.length === 0 || found.length >= page.total) return found
  }
}

/** Every body by name, however many there are, to choose from; null until they are known. */
export function useBodyNames() {
  const { value, error } = useAsk(() => ({
    queryKey: ['bodies', 'names'],
    queryFn: ({ signal }) => everyName(signal),
  }))
  return { known: value, bodies: computed(() => value.value ?? []), bodiesError: error }
}
