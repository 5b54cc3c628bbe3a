import { useMutation } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

/** Tells the server to change something: once at a time, its refusal kept to be shown.
 *
 * `done` is given what the server answered. */
export function useTell<T = unknown>(done: (value: T) => unknown = () => undefined) {
  const busy = ref(false)
  const refused = ref<Error | null>(null)
  const mutation = useMutation({ mutationFn: (call: () => Promise<T>) => call(), networkMode: 'always' })

  /** Whether it was done. A second press while the first is on its way does nothing. */
  async function tell(call: () => Promise<T>): Promise<boolean> {
    if (busy.value) return false
    busy.value = true
    try {
      const value = await mutation.mutateAsync(call)
      refused.value = null
      await done(value)
      return true
    } catch (problem) {
      refused.value = problem as Error
      return false
    } finally {
      busy.value = false
    }
  }

  function forget(): void {
    refused.value = null
  }

  return { tell, busy, refused, error: computed(() => refused.value?.message ?? ''), forget }
}
