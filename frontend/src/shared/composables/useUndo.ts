import { ref, shallowRef } from 'vue'

/** What was just removed, to be put back with one press; it stays on screen from page to page. */
export interface Undoable {
  words: string
  run: () => Promise<unknown>
}
const offered = shallowRef<Undoable | null>(null)
const error = ref('')

export function useUndo() {
  function offer(what: Undoable): void {
    offered.value = what
    error.value = ''
  }
  function dismiss(): void {
    offered.value = null
    error.value = ''
  }
  async function undo(): Promise<void> {
    try {
      await offered.value?.run()
      dismiss()
    } catch (problem) {
      error.value = (problem as Error).message
    }
  }
  return { offered, error, offer, undo, dismiss }
}
