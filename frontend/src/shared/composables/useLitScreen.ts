import { onMounted, onScopeDispose } from 'vue'

/**
 * Keeps the screen lit while a view is open: wet hands wake no screen. Where the browser cannot or
 * will not, nothing happens. The browser lets go when the page is hidden, so it is asked anew.
 */
export function useLitScreen(): void {
  let held: WakeLockSentinel | null = null
  let over = false

  async function hold(): Promise<void> {
    if (!('wakeLock' in navigator) || document.visibilityState !== 'visible') return
    try {
      held = await navigator.wakeLock.request('screen')
      if (over) await held.release()
    } catch {
      held = null
    }
  }

  onMounted(() => {
    document.addEventListener('visibilitychange', hold)
    void hold()
  })
  onScopeDispose(() => {
    over = true
    document.removeEventListener('visibilitychange', hold)
    void held?.release()
  })
}
