import { computed, nextTick, type Ref } from 'vue'
import { nextSpot } from '@/shared/lib/spots'

export interface OnScreen {
  id: string
  x: number
  y: number
}

/**
 * Walking marks by keyboard: the tab key comes to one of them, arrow keys lead on as they lie on the
 * screen, Escape lets go.
 */
export function useSpotWalk(
  layer: Ref<SVGElement | null>,
  onScreen: () => readonly OnScreen[],
  selected: Ref<string | null>,
) {
  const reached = computed(
    () => onScreen().find((m) => m.id === selected.value)?.id ?? onScreen()[0]?.id ?? null,
  )

  function walk(event: KeyboardEvent, id: string): void {
    if (event.key === 'Escape' && selected.value) {
      selected.value = null
      event.stopPropagation()
      return
    }
    const marks = onScreen()
    const here = marks.find((m) => m.id === id)
    if (!here || !event.key.startsWith('Arrow')) return
    event.preventDefault()
    event.stopPropagation()
    const next = nextSpot(marks, here, event.key)
    if (!next) return
    selected.value = next.id
    void nextTick(() =>
      layer.value?.querySelector<SVGElement>(`[data-spot="${CSS.escape(next.id)}"]`)?.focus(),
    )
  }

  return { reached, walk }
}
