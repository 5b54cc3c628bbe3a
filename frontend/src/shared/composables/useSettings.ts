import { useQueryClient } from '@tanstack/vue-query'
import { computed, watch } from 'vue'
import { answer, api, reader, type Settings } from '@/api/client'
import { queries } from '@/api/queries'
import { length, lengths, temperature } from '@/shared/lib/units'
import { useAsk } from './useAsk'

const USUAL: Settings = { works_at: 16, units: 'metric', hand: 'right', spot_limit: 5 }

/** What this installation remembers; shared by all views. */
export function useSettings() {
  const client = useQueryClient()
  const { value } = useAsk(queries.settings)
  const settings = computed(() => value.value ?? USUAL)
  const units = computed(() => settings.value.units)

  watch(
    units,
    (now) => {
      if (reader.units === now) return
      reader.units = now
      // What was said in the other units is asked for anew.
      void client.invalidateQueries({ predicate: (query) => query.queryKey[0] !== 'settings' })
    },
    { immediate: true },
  )

  async function change(part: Partial<Settings>): Promise<void> {
    const { queryKey } = queries.settings()
    await client.cancelQueries({ queryKey })
    const before = settings.value
    client.setQueryData(queryKey, { ...before, ...part })
    try {
      client.setQueryData(queryKey, await answer(api.PUT('/api/settings', { body: part })))
    } catch (problem) {
      client.setQueryData(queryKey, before)
      throw problem
    }
  }

  return {
    settings,
    units,
    change,
    mm: (value: number): string => length(value, units.value),
    by: (width: number, height: number): string => lengths([width, height], ' × ', units.value),
    celsius: (value: number): string => temperature(value, units.value),
  }
}
