import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import type { Archive } from '@/api/client'
import { ALL_FRAMES, queries, type FramesWanted } from '@/api/queries'
import { useAsk } from '@/shared/composables/useAsk'

const WHILE_BUSY_MS = 700

/** Frames page by page as they are wanted; the first page is looked at again while work goes on. */
export function useArchive() {
  const client = useQueryClient()
  const older = ref<Archive['frames']>([])
  const olderError = ref('')
  const wanted = ref<FramesWanted>({ ...ALL_FRAMES })
  const newest = useAsk(() => queries.archive(0, wanted.value), {
    everyMs: (found) => (found?.open_jobs.length ? WHILE_BUSY_MS : false),
    keeps: true,
  })
  watch(wanted, () => {
    older.value = []
  })

  const archive = computed<Archive | null>(() => {
    const first = newest.value.value
    if (!first) return null
    const ids = new Set(first.frames.map((f) => f.id))
    return { ...first, frames: [...first.frames, ...older.value.filter((f) => !ids.has(f.id))] }
  })
  const left = computed(() => Math.max(0, (archive.value?.total ?? 0) - (archive.value?.frames.length ?? 0)))

  async function more(): Promise<void> {
    try {
      const asked = wanted.value
      const page = await client.fetchQuery(queries.archive(archive.value?.frames.length ?? 0, asked))
      if (asked !== wanted.value) return
      older.value = [...older.value, ...page.frames]
      olderError.value = ''
    } catch (problem) {
      olderError.value = (problem as Error).message
    }
  }

  /** Take a frame out of sight that was just removed. */
  async function forget(frameId: number): Promise<void> {
    older.value = older.value.filter((f) => f.id !== frameId)
    await newest.again()
  }

  const error = computed(() => newest.error.value || olderError.value)
  return { archive, wanted, left, error, load: newest.again, more, forget }
}
