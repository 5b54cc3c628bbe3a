import { onMounted, onScopeDispose, ref, watch, type Ref } from 'vue'

/**
 * Keeps the screen lit while a view is open: wet hands wake no screen. Where the browser cannot or
 * will not, nothing happens. The browser lets go when the page is hidden, so it is asked anew.
 * `wanted`: only while this is so.
 */
export function useLitScreen(wanted: Ref<boolean> = ref(true)): void {
  let held: WakeLockSentinel | null = null
  let over = false

  async function hold(): Promise<void> {
    if (!wanted.value || !('wakeLock' in navigator) || document.visibilityState !== 'visible') return
    try {
      held = await navigator.wakeLock.request('screen')
      if (over) await held.release()
    } catch {
      held = null
    }
  }

  const onVisible = () => void hold()

  onMounted(() => {
    document.addEventListener('visibilitychange', onVisible)
    void hold()
  })
  watch(wanted, () => void hold())
  onScopeDispose(() => {
    over = true
    document.removeEventListener('visibilitychange', onVisible)
    void held?.release()
  })
}
