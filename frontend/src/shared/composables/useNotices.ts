import { ref } from 'vue'

const KEY = 'neatpatch-notices'
const known = typeof Notification === 'undefined' ? null : Notification
const allowed = ref(known?.permission === 'granted' && localStorage.getItem(KEY) === 'yes')

/** A notice of the system when long work ends while one looks elsewhere; only where it was allowed. */
export function useNotices() {
  async function allow(yes: boolean): Promise<void> {
    const granted = yes && known !== null && (await known.requestPermission()) === 'granted'
    localStorage.setItem(KEY, granted ? 'yes' : 'no')
    allowed.value = granted
  }
  function tell(words: string): void {
    if (allowed.value && known && document.hidden) new known('Neat Patch', { body: words, icon: '/mark.svg' })
  }
  return { possible: known !== null, allowed, allow, tell }
}
