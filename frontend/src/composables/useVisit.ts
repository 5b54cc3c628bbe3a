import { onScopeDispose, ref, watch, type Ref } from 'vue'
import { answer, api, CHANGED, freshKey, Refusal, seen, SHORT_STOCK, type Closed, type Conditions, type Step, type StepUse, type Visit } from '../api/client'
import type { Schemas } from '../api/client'

/** A question the kit asks before more is taken than it counts. */
export interface StockAsked {
  text: string
  answer: (more: boolean) => void
}

/** One visit, kept in step with every other page that has it open. */
export function useVisit(id: Ref<number>) {
  const visit = ref<Visit | null>(null)
  const error = ref('')
  const busy = ref(false)
  const asked = ref<StockAsked | null>(null)
  let stream: EventSource | null = null

  const path = () => ({ params: { path: { visit_id: id.value } } })

  async function load(): Promise<void> {
    await attempt(() => answer(api.GET('/api/visits/{visit_id}', path())), false)
  }

  /** Run a call that gives the visit anew; its error is shown and nothing is lost. */
  async function attempt(call: () => Promise<unknown>, shows = true): Promise<boolean> {
    if (shows) busy.value = true
    try {
      visit.value = (await call()) as Visit
      error.value = ''
      return true
    } catch (problem) {
      error.value = (problem as Error).message
      return false
    } finally {
      if (shows) busy.value = false
    }
  }

  /** Run a call that takes from the kit; where the count does not reach, ask and run it again. */
  async function taking(call: (recount: boolean) => Promise<unknown>): Promise<boolean> {
    return attempt(async () => {
      try {
        return await call(false)
      } catch (problem) {
        if (!(problem instanceof Refusal) || problem.kind !== SHORT_STOCK) throw problem
        const more = await new Promise<boolean>((resolve) => { asked.value = { text: problem.message, answer: resolve } })
        asked.value = null
        if (!more) throw new Error('Not logged. Put the count right in the kit, or say that there was more.', { cause: problem })
        return await call(true)
      }
    })
  }

  /** What was changed elsewhere is shown at once, with the refusal to overwrite it. */
  async function refreshing<T>(call: Promise<T>): Promise<T> {
    try {
      return await call
    } catch (problem) {
      if (problem instanceof Refusal && problem.kind === CHANGED) visit.value = await answer(api.GET('/api/visits/{visit_id}', path())) as Visit
      throw problem
    }
  }

  function listen(): void {
    stream?.close()
    stream = new EventSource(`/api/visits/${id.value}/events`)
    stream.addEventListener('visit', (event: MessageEvent<string>) => {
      const { version } = JSON.parse(event.data) as { version: number }
      if (version !== visit.value?.version || visit.value.jobs.length > 0) void load()
    })
  }

  watch(id, () => {
    visit.value = null
    void load()
    listen()
  }, { immediate: true })
  onScopeDispose(() => stream?.close())

  return {
    visit, error, busy, load, asked,
    /** `version`: the one the form was opened with. */
    setConditions: async (conditions: Conditions, version: number) => {
      const header = seen(version)
      const done = await attempt(() => refreshing(answer(api.PUT('/api/visits/{visit_id}/conditions', { params: { ...path().params, header }, body: conditions }))))
      return done
    },
    /** A second press while the first is on its way does nothing; `key`: sent twice, logged once. */
    addStep: async (step: Step, use: StepUse, against = '', key = freshKey()) => {
      if (busy.value) return false
      const header = { 'Idempotency-Key': key }
      return taking((recount) => answer(api.POST('/api/visits/{visit_id}/steps', { params: { ...path().params, header }, body: { step, use, against, recount } })))
    },
    correct: (entry: number, use: StepUse, taken: { kit_id: number; amount: number }[]) =>
      taking((recount) => answer(api.PUT('/api/visits/{visit_id}/trail/{entry_id}/use', { ...entryPath(id.value, entry), body: { use, taken, recount } }))),
    accept: (entry: number) =>
      attempt(() => answer(api.POST('/api/visits/{visit_id}/trail/{entry_id}/accept', entryPath(id.value, entry)))),
    remove: (entry: number) =>
      attempt(() => answer(api.DELETE('/api/visits/{visit_id}/trail/{entry_id}', entryPath(id.value, entry)))),
    measure: async (frame_id: number) => {
      try {
        await answer(api.POST('/api/frames/{frame_id}/measure', { params: { path: { frame_id } } }))
        error.value = ''
      } catch (problem) {
        error.value = (problem as Error).message
      }
      await load()
    },
    async shoot(f: number): Promise<void> {
      if (busy.value) return
      busy.value = true
      try {
        await answer(api.POST('/api/visits/{visit_id}/shoot', { params: { path: { visit_id: id.value }, query: { f }, header: { 'Idempotency-Key': freshKey() } } }))
        error.value = ''
      } catch (problem) {
        error.value = (problem as Error).message
      } finally {
        busy.value = false
      }
      await load()
    },
    async close(closing: Schemas['Closing']): Promise<Closed | null> {
      try {
        const closed = await answer(api.POST('/api/visits/{visit_id}/close', { ...path(), body: closing }))
        visit.value = closed.visit as Visit
        return closed as Closed
      } catch (problem) {
        error.value = (problem as Error).message
        return null
      }
    },
  }
}

function entryPath(visit_id: number, entry_id: number) {
  return { params: { path: { visit_id, entry_id } } }
}
