import { useQueryClient } from '@tanstack/vue-query'
import { computed, onScopeDispose, ref, watch, type Ref } from 'vue'
import {
  answer,
  api,
  CHANGED,
  freshKey,
  Refusal,
  seen,
  SHORT_STOCK,
  type Closed,
  type Conditions,
  type Schemas,
  type Step,
  type StepUse,
  type Visit,
} from '@/api/client'
import { queries } from '@/api/queries'
import { useAsk } from '@/shared/composables/useAsk'
import { useTell } from '@/shared/composables/useTell'
import { followVisit } from '@/shared/lib/stream'

/** Why two frames in a row have nothing in common. */
export type Explanation = Schemas['Explained']['why']

/** A question the kit asks before more is taken than it counts. */
export interface StockAsked {
  text: string
  answer: (more: boolean) => void
}

const NOT_LOGGED = 'Not logged. Put the count right in the kit, or say that there was more.'

/** One visit, kept in step with every other page that has it open. */
export function useVisit(id: Ref<number>, handsMoved: (version: number | null) => void = () => undefined) {
  const client = useQueryClient()
  const { value: visit, error: away, again: load } = useAsk(() => queries.visit(id.value))
  const { tell, busy, error: refused, forget } = useTell<unknown>()
  const asked = ref<StockAsked | null>(null)
  let letGo: () => void = () => undefined
  /** The newest version that one was told of; an answer may be older. */
  let newest = 0

  const path = () => ({ params: { path: { visit_id: id.value } } })
  const entry = (entry_id: number) => ({ params: { path: { visit_id: id.value, entry_id } } })

  /** Run a call that gives the visit anew; its error is shown and nothing is lost. */
  async function changing(call: () => Promise<unknown>): Promise<boolean> {
    const { queryKey } = queries.visit(id.value)
    return tell(async () => {
      const changed = (await call()) as Visit
      await client.cancelQueries({ queryKey, exact: true })
      client.setQueryData<Visit>(queryKey, (old) => (old && old.version > changed.version ? old : changed))
      if (newest > changed.version) void load()
      void client.invalidateQueries({ queryKey: ['kit'] })
    })
  }

  /** Run a call that takes from the kit; where the count does not reach, ask and run it again. */
  function taking(call: (recount: boolean) => Promise<unknown>): Promise<boolean> {
    return changing(async () => {
      try {
        return await call(false)
      } catch (problem) {
        if (!(problem instanceof Refusal) || problem.kind !== SHORT_STOCK) throw problem
        const more = await new Promise<boolean>((resolve) => {
          asked.value = { text: problem.message, answer: resolve }
        })
        asked.value = null
        if (!more) throw new Error(NOT_LOGGED, { cause: problem })
        return await call(true)
      }
    })
  }

  /** What was changed elsewhere is shown at once, with the refusal to overwrite it. */
  async function refreshing<T>(call: Promise<T>): Promise<T> {
    try {
      return await call
    } catch (problem) {
      if (problem instanceof Refusal && problem.kind === CHANGED) await load()
      throw problem
    }
  }

  function listen(): void {
    letGo()
    letGo = followVisit(id.value, {
      visit: (version) => {
        newest = version
        if (version !== visit.value?.version || visit.value.jobs.length > 0) void load()
      },
      hands: handsMoved,
    })
  }

  watch(
    id,
    () => {
      forget()
      newest = 0
      listen()
    },
    { immediate: true },
  )
  onScopeDispose(() => letGo())

  return {
    visit,
    error: computed(() => refused.value || away.value),
    busy,
    load,
    asked,
    /** `version`: the one the form was opened with. */
    setConditions: (conditions: Conditions, version: number) =>
      changing(() =>
        refreshing(
          answer(
            api.PUT('/api/visits/{visit_id}/conditions', {
              params: { ...path().params, header: seen(version) },
              body: conditions,
            }),
          ),
        ),
      ),
    /** `key`: sent twice under it, a step is logged once. */
    addStep: (step: Step, use: StepUse, against = '', key: string = freshKey()) =>
      taking((recount) =>
        answer(
          api.POST('/api/visits/{visit_id}/steps', {
            params: { ...path().params, header: { 'Idempotency-Key': key } },
            body: { step, use, against, recount },
          }),
        ),
      ),
    correct: (entry_id: number, use: StepUse, taken: { kit_id: number; amount: number }[]) =>
      taking((recount) =>
        answer(
          api.PUT('/api/visits/{visit_id}/trail/{entry_id}/use', {
            ...entry(entry_id),
            body: { use, taken, recount },
          }),
        ),
      ),
    explain: (entry_id: number, why: Explanation) =>
      changing(() =>
        answer(
          api.POST('/api/visits/{visit_id}/trail/{entry_id}/explain', { ...entry(entry_id), body: { why } }),
        ),
      ),
    accept: (entry_id: number) =>
      changing(() => answer(api.POST('/api/visits/{visit_id}/trail/{entry_id}/accept', entry(entry_id)))),
    remove: (entry_id: number) =>
      changing(() => answer(api.DELETE('/api/visits/{visit_id}/trail/{entry_id}', entry(entry_id)))),
    restore: (entry_id: number) =>
      changing(() => answer(api.POST('/api/visits/{visit_id}/trail/{entry_id}/restore', entry(entry_id)))),
    measure: async (frame_id: number) => {
      await tell(() => answer(api.POST('/api/frames/{frame_id}/measure', { params: { path: { frame_id } } })))
      await load()
    },
    shoot: async (f: number) => {
      const header = { 'Idempotency-Key': freshKey() }
      await tell(() =>
        answer(
          api.POST('/api/visits/{visit_id}/shoot', { params: { ...path().params, query: { f }, header } }),
        ),
      )
      await load()
    },
    reopen: () => changing(() => answer(api.POST('/api/visits/{visit_id}/reopen', path()))),
    close: async (closing: Schemas['Closing']): Promise<Closed | null> => {
      let closed: Closed | null = null
      await changing(async () => {
        closed = (await answer(
          api.POST('/api/visits/{visit_id}/close', { ...path(), body: closing }),
        )) as Closed
        return closed.visit
      })
      return closed
    },
  }
}
