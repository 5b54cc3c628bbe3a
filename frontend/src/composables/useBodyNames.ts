import { onMounted, ref } from 'vue'
import { answer, api } from '../api/client'

const PAGE = 200

export interface BodyName {
  id: number
  name: string
}

/** Every body by name, however many there are, to choose from. */
export function useBodyNames(onLoad: (bodies: BodyName[]) => void = () => undefined) {
  const bodies = ref<BodyName[]>([])
  const error = ref('')
  onMounted(async () => {
    try {
      const found: BodyName[] = []
      for (;;) {
        const page = await answer(api.GET('/api/bodies', { params: { query: { first: found.length, count: PAGE } } }))
        found.push(...page.bodies.map((b) => ({ id: b.id, name: b.body.name })))
        if (page.bodies.length === 0 || found.length >= page.total) break
      }
      bodies.value = found
      onLoad(found)
    } catch (problem) {
      error.value = (problem as Error).message
    }
  })
  return { bodies, bodiesError: error }
}
