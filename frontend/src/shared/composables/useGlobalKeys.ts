import { onMounted, onScopeDispose } from 'vue'

const TYPING = 'input, textarea, select, [contenteditable], [role=combobox]'

/** Keys that work on every page: Ctrl K finds, ? tells the keys, a pasted picture is taken in. */
export function useGlobalKeys(act: {
  find: () => void
  keys: () => void
  paste: (files: File[]) => void
}): void {
  const typing = (event: Event): boolean => event.target instanceof Element && !!event.target.closest(TYPING)

  function onKey(event: KeyboardEvent): void {
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
      event.preventDefault()
      act.find()
    } else if (event.key === '?' && !typing(event)) {
      event.preventDefault()
      act.keys()
    }
  }
  function onPaste(event: ClipboardEvent): void {
    if (typing(event)) return
    const files = [...(event.clipboardData?.files ?? [])]
    if (!files.length) return
    event.preventDefault()
    act.paste(files)
  }
  onMounted(() => {
    window.addEventListener('keydown', onKey)
    window.addEventListener('paste', onPaste)
  })
  onScopeDispose(() => {
    window.removeEventListener('keydown', onKey)
    window.removeEventListener('paste', onPaste)
  })
}
