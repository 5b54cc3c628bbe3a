import { useRouter } from 'vue-router'
import { answer, api } from '@/api/client'
import { useTell } from './useTell'

/** Begins a visit of a body, perhaps with a frame that is here already, and goes there. */
export function useBegin() {
  const router = useRouter()
  const { tell, error } = useTell<{ id: number }>((visit) =>
    router.push({ name: 'visit', params: { id: visit.id } }),
  )
  const begin = (body_id: number, frame_id: number | null = null): Promise<boolean> =>
    tell(() => answer(api.POST('/api/visits', { body: { body_id, frame_id } })))
  return { begin, error }
}
