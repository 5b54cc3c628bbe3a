import { computed, onScopeDispose, shallowRef, watch, type Ref } from 'vue'
import { relativeTo, type Matrix } from '@/shared/lib/geometry'

const SETTLED_MS = 120

/** The matrix that marks are drawn by: it follows only when the picture stands still.
 *
 * Meanwhile the layer as drawn is moved as a whole by `drift`, which costs a browser next to nothing
 * however many marks there are. */
export function useSettledMatrix(matrix: Ref<Matrix | null>) {
  const settled = shallowRef<Matrix | null>(null)
  let timer = 0
  watch(
    matrix,
    (now) => {
      clearTimeout(timer)
      if (settled.value === null || now === null) settled.value = now
      else timer = window.setTimeout(() => (settled.value = matrix.value), SETTLED_MS)
    },
    { immediate: true },
  )
  onScopeDispose(() => clearTimeout(timer))
  const drift = computed(() =>
    matrix.value && settled.value && matrix.value !== settled.value
      ? `matrix(${relativeTo(matrix.value, settled.value).join(', ')})`
      : 'none',
  )
  return { settled, drift }
}
