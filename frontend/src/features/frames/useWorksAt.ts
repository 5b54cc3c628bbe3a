import { computed } from 'vue'
import { useSettings } from '@/shared/composables/useSettings'

/** The smallest aperture its owner works at, remembered by the server. */
export function useWorksAt(onChange: () => void = () => undefined) {
  const { settings, change } = useSettings()
  const worksAt = computed(() => settings.value.works_at)

  async function setWorksAt(f: number): Promise<void> {
    await change({ works_at: f })
    onChange()
  }
  return { worksAt, setWorksAt }
}
