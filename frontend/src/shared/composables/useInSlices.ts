import { computed, onScopeDispose, ref, watchEffect, type Ref } from 'vue'

const SLICE = 120

/** A long list a slice a frame at first, so that the page answers while it is drawn. */
export function useInSlices<T>(all: Ref<readonly T[]>) {
  const upTo = ref(SLICE)
  let next = 0
  watchEffect(() => {
    if (upTo.value < all.value.length)
      next = requestAnimationFrame(() => {
        upTo.value += SLICE
      })
  })
  onScopeDispose(() => cancelAnimationFrame(next))
  return computed(() => (upTo.value < all.value.length ? all.value.slice(0, upTo.value) : all.value))
}
