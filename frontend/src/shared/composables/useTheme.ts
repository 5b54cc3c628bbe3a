import { ref, watchEffect } from 'vue'

const KEY = 'neatpatch-theme'
const preferred = (): boolean => {
  const kept = localStorage.getItem(KEY)
  if (kept) return kept === 'dim'
  return window.matchMedia('(prefers-color-scheme: dark)').matches
}

const dim = ref(preferred())
watchEffect(() => {
  document.documentElement.classList.toggle('dim', dim.value)
})

/** Light or dim, remembered on this machine. */
export function useTheme() {
  function toggle(): void {
    dim.value = !dim.value
    localStorage.setItem(KEY, dim.value ? 'dim' : 'light')
  }
  return { dim, toggle }
}
