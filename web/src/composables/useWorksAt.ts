import { onMounted, ref } from 'vue'
import { answer, api } from '../api/client'

const worksAt = ref(16)

/** The smallest aperture its owner works at, remembered by the server. */
export function useWorksAt(onChange: () => void = () => undefined) {
  onMounted(async () => {
    try {
      worksAt.value = (await answer(api.GET('/api/settings'))).works_at
    } catch {
      // The page that needs it shows its own error when the server is away.
    }
  })

  async function setWorksAt(f: number): Promise<void> {
    worksAt.value = f
    await answer(api.PUT('/api/settings', { body: { works_at: f } }))
    onChange()
  }
  return { worksAt, setWorksAt }
}
