import { onMounted, onScopeDispose, ref } from 'vue'

/** Files dropped anywhere on the page; `over` while they are held above it.
 *
 * A view that takes a drop for itself prevents its default before it comes here. */
export function useFileDrop(take: (files: File[]) => void) {
  const over = ref(false)
  let depth = 0
  const carriesFiles = (event: DragEvent): boolean => event.dataTransfer?.types.includes('Files') ?? false

  function enter(event: DragEvent): void {
    if (!carriesFiles(event)) return
    depth += 1
    over.value = true
  }
  function leave(event: DragEvent): void {
    if (!carriesFiles(event)) return
    depth = Math.max(0, depth - 1)
    over.value = depth > 0
  }
  function hold(event: DragEvent): void {
    if (carriesFiles(event)) event.preventDefault()
  }
  function drop(event: DragEvent): void {
    if (!carriesFiles(event)) return
    const taken = event.defaultPrevented
    event.preventDefault()
    depth = 0
    over.value = false
    if (taken) return
    const files = [...(event.dataTransfer?.files ?? [])]
    if (files.length) take(files)
  }

  const heard = [
    ['dragenter', enter],
    ['dragleave', leave],
    ['dragover', hold],
    ['drop', drop],
  ] as const
  onMounted(() => heard.forEach(([name, run]) => window.addEventListener(name, run)))
  onScopeDispose(() => heard.forEach(([name, run]) => window.removeEventListener(name, run)))
  return { over }
}
