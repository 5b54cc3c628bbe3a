import { computed, ref, watch, type Ref } from 'vue'
import { leftWords } from '@/shared/lib/format'

/** Sooner an estimate would jump about. */
const LEAST_SHARE = 0.03
const LEAST_MS = 2000

/** How long work will still take, in words, by how fast it went since it was first seen; empty while unknown. */
export function useTimeLeft(progress: Readonly<Ref<number | null>>, now: () => number = () => Date.now()) {
  const begun = ref<{ at: number; share: number } | null>(null)
  const latest = ref(0)
  watch(
    progress,
    (share) => {
      if (share === null || (begun.value && share < begun.value.share)) begun.value = null
      if (share === null) return
      begun.value ??= { at: now(), share }
      latest.value = now()
    },
    { immediate: true },
  )
  return computed(() => {
    const [from, share] = [begun.value, progress.value]
    if (!from || share === null) return ''
    const done = share - from.share
    const took = latest.value - from.at
    if (done < LEAST_SHARE || took < LEAST_MS || share >= 1) return ''
    return leftWords(((1 - share) * took) / done / 1000)
  })
}
