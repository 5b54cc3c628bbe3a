import { ref, shallowRef, type Ref } from 'vue'

/** A value the server gives anew with every change; a refusal is shown and the value stays. */
export function useRun<T>() {
  const value = shallowRef<T | null>(null)
  const error = ref('')

  async function run(call: Promise<unknown>, complain: Ref<string> = error): Promise<boolean> {
    try {
      value.value = (await call) as T
      complain.value = ''
      return true
    } catch (problem) {
      complain.value = (problem as Error).message
      return false
    }
  }
  return { value, error, run }
}
