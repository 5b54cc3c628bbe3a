import { useQueryClient } from '@tanstack/vue-query'
import { answer, api } from '@/api/client'
import { useTell } from '@/shared/composables/useTell'
import { useUndo } from '@/shared/composables/useUndo'

/** Deletes a frame at once, and offers to put it back with all that belonged to it. */
export function useFrameDelete() {
  const client = useQueryClient()
  const { offer } = useUndo()
  const { tell, error, busy } = useTell()

  /** Nothing stale is shown by Back: all that may show the frame is asked for anew. */
  async function refresh(): Promise<void> {
    await client.invalidateQueries()
  }

  async function deleteFrame(frame_id: number, name: string): Promise<boolean> {
    const params = { path: { frame_id } }
    const done = await tell(() => answer(api.DELETE('/api/frames/{frame_id}', { params }), true))
    if (!done) return false
    client.removeQueries({ queryKey: ['frames', frame_id] })
    offer({
      words: `Deleted: ${name}.`,
      run: async () => {
        await answer(api.POST('/api/frames/{frame_id}/restore', { params }), true)
        await refresh()
      },
    })
    void refresh()
    return true
  }
  return { deleteFrame, error, busy }
}
