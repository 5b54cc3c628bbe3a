import { useQueryClient } from '@tanstack/vue-query'
import { shallowRef, type Ref } from 'vue'
import { useTell } from '@/shared/composables/useTell'
import { stopwatch } from './practice'

const A_DAY_S = 86_400

/** An exercise: a question is drawn, answered once, and the answer debriefed. */
export function useExercise<Q, D>(begin: () => void = () => undefined) {
  const client = useQueryClient()
  const question: Ref<Q | null> = shallowRef(null)
  const debrief: Ref<D | null> = shallowRef(null)
  let clock = stopwatch()
  const asking = useTell<Q>((now) => {
    question.value = now
    debrief.value = null
    clock = stopwatch()
    begin()
  })
  const answering = useTell<D>((now) => {
    debrief.value = now
    void client.invalidateQueries({ queryKey: ['practice'] })
  })
  return {
    question,
    debrief,
    asking,
    answering,
    /** So long since the question was drawn. */
    seconds: () => Math.min(clock(), A_DAY_S),
  }
}
