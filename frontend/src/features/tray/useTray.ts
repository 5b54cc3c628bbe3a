import { useQueryClient } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { answer, api, OFFLINE, type Schemas } from '@/api/client'
import { queries } from '@/api/queries'
import { API } from '@/api/root'
import { useAsk } from '@/shared/composables/useAsk'
import { useTell } from '@/shared/composables/useTell'
import { smaller } from './photo'

export type Tray = Schemas['TrayView']

/** The tray of a visit: where it stands, and everything that is done with it. */
export function useTray(visitId: Ref<number>) {
  const client = useQueryClient()
  const { value: tray, error: away } = useAsk(() => queries.tray(visitId.value))
  const telling = useTell<unknown>(async () => {
    await client.invalidateQueries({ queryKey: ['tray'] })
    await client.invalidateQueries({ queryKey: ['visits'] })
  })
  const photos = useTell<unknown>(() => client.invalidateQueries({ queryKey: ['tray'] }))
  let sent: Promise<unknown> = Promise.resolve()
  const path = computed(() => ({ visit_id: visitId.value }))
  const tell = (call: () => Promise<unknown>): Promise<boolean> => telling.tell(call)
  const begin = (model: string): Promise<boolean> =>
    tell(() =>
      answer(api.POST('/api/visits/{visit_id}/tray', { params: { path: path.value }, body: { model } })),
    )
  const done = (step_id: string, count: number | null, lost: string): Promise<boolean> =>
    tell(() =>
      answer(
        api.POST('/api/visits/{visit_id}/tray/steps', {
          params: { path: path.value },
          body: { step_id, count, lost },
        }),
      ),
    )
  const back = (): Promise<boolean> =>
    tell(() => answer(api.DELETE('/api/visits/{visit_id}/tray/steps', { params: { path: path.value } })))
  const putAway = (): Promise<boolean> =>
    tell(() => answer(api.DELETE('/api/visits/{visit_id}/tray', { params: { path: path.value } })))
  const correct = (field: string, count: number): Promise<boolean> =>
    tell(() =>
      answer(
        api.PUT('/api/visits/{visit_id}/tray/fields/{field}', {
          params: { path: { ...path.value, field } },
          body: { count },
        }),
      ),
    )
  async function send(step_id: string, file: File): Promise<void> {
    const url = `${API}/visits/${visitId.value}/tray/photos?step_id=${encodeURIComponent(step_id)}`
    const body = await smaller(file)
    const answered = await fetch(url, { method: 'POST', body }).catch(() => {
      throw new Error(OFFLINE)
    })
    if (!answered.ok) throw new Error(((await answered.json()) as { detail: string }).detail)
  }
  /** One after the other, and beside a step that is on its way: a second shot would not be taken. */
  function photograph(step_id: string, file: File): Promise<boolean> {
    const mine = sent.then(() => photos.tell(() => send(step_id, file)))
    sent = mine
    return mine
  }
  const error = computed(() => telling.error.value || photos.error.value)
  /** Ask for it, as one who has the skill: what is advised changes with it. */
  const ask = (conditions: Schemas['VisitConditions']): Promise<boolean> =>
    tell(() =>
      answer(
        api.PUT('/api/visits/{visit_id}/conditions', {
          params: { path: path.value },
          body: { ...conditions, experience: 'expert', asks_for: 'teardown' },
        }),
      ),
    )
  return { tray, away, telling, error, begin, done, back, putAway, correct, photograph, ask }
}
