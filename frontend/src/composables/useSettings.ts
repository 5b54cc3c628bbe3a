import { computed, onMounted, ref } from 'vue'
import { answer, api, type Settings } from '../api/client'
import { inUnits, length, temperature } from '../lib/units'

const settings = ref<Settings>({ works_at: 16, units: 'metric', hand: 'right' })
let asked = false

/** What this installation remembers; shared by all views, asked for once. */
export function useSettings() {
  onMounted(async () => {
    if (asked) return
    asked = true
    try {
      settings.value = await answer(api.GET('/api/settings'))
    } catch {
      asked = false // The page that needs it shows its own error when the server is away.
    }
  })

  async function change(part: Partial<Settings>): Promise<void> {
    settings.value = { ...settings.value, ...part }
    await answer(api.PUT('/api/settings', { body: part }))
  }

  const units = computed(() => settings.value.units)
  return {
    settings, units, change,
    say: (text: string): string => inUnits(text, units.value),
    mm: (value: number): string => length(value, units.value),
    celsius: (value: number): string => temperature(value, units.value),
  }
}
