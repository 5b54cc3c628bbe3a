import { ref, shallowRef, type Ref } from 'vue'

/** A value the server gives anew with every change; a refusal is shown and the value stays. */
export function useRun<T>() {
  const value = shallowRef<T | null>(null)
  const error = ref('')
  const busy = ref(false)

  /** A second press while the first is on its way does nothing. */
  async function run(call: () => Promise<unknown>, complain: Ref<string> = error): Promise<boolean> {
    if (busy.value) return false
    busy.value = true
    try {
      value.value = (await call()) as T
      complain.value = ''
      return true
    } catch (problem) {
      complain.value = (problem as Error).message
      return false
    } finally {
      busy.value = false
    }
  }
  return { value, error, busy, run }
}
