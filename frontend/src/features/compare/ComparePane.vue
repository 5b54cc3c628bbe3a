<script setup lang="ts">
import { API } from '@/api/root'
import { computed, ref, toRef } from 'vue'
import type { FrameComparison, Spot, SpotMap } from '@/api/client'
import { useViewer } from '@/shared/composables/useViewer'
import { scaleOf } from '@/shared/lib/geometry'
import { markOf } from '@/shared/lib/marks'
import type { Tone } from '@/shared/lib/tones'

type Status = FrameComparison['comparison']['spots'][number]['status']
const props = defineProps<{
  frameId: number
  facts: SpotMap['frames'][number]
  tilePx: number
  spots: { spot: Spot; status: Status }[]
  tone: Tone
  gain: number
  label: string
  right?: boolean
  /** Orientation tag to show it under, where that is not its own. */
  shownAs?: number
}>()
const stage = ref<HTMLElement | null>(null)
const { matrix, ready, zoomBy, home, place, onMove, lookAs } = useViewer(stage, {
  base: `${API}/frames/${props.frameId}/tiles`,
  width: props.facts.width_px,
  height: props.facts.height_px,
  tilePx: props.tilePx,
  pictured: true,
  orientation: props.shownAs ?? props.facts.orientation,
  tone: toRef(props, 'tone'),
  gain: toRef(props, 'gain'),
})
const scale = computed(() => (matrix.value ? scaleOf(matrix.value) : 1))
const drawn = computed(() =>
  props.spots.map(({ spot, status }) => ({ ...markOf(spot, scale.value), status })),
)
defineExpose({ ready, zoomBy, home, place, onMove, lookAs })
</script>

<template>
  <div class="pane">
    <div ref="stage" class="stage" />
    <svg aria-hidden="true">
      <g v-if="matrix" :transform="`matrix(${matrix.join(' ')})`">
        <g v-for="m in drawn" :key="m.id" :class="m.status" :data-status="m.status">
          <path v-if="m.shape === 'band'" :d="m.outline" :transform="`translate(${m.x} ${m.y})`" />
          <circle v-else :cx="m.x" :cy="m.y" :r="m.radius" />
          <path v-if="m.status === 'gone'" :d="`M ${m.x - m.radius} ${m.y} h ${2 * m.radius}`" />
          <path
            v-if="m.status === 'new'"
            :d="`M ${m.x - m.radius} ${m.y} h ${2 * m.radius} M ${m.x} ${m.y - m.radius} v ${2 * m.radius}`"
          />
        </g>
      </g>
    </svg>
    <span class="label" :class="{ right }">{{ label }}</span>
  </div>
</template>

<style scoped>
.pane {
  position: absolute;
  inset: 0;
  background: var(--surround);
  overflow: hidden;
}
.stage,
svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
svg {
  pointer-events: none;
  fill: none;
  stroke-width: 2px;
}
svg * {
  vector-effect: non-scaling-stroke;
}
.gone {
  stroke: var(--mark-gone);
  stroke-dasharray: 5 3;
}
.stayed,
.fainter {
  stroke: var(--mark-dark);
  stroke-width: 1.4px;
}
.fainter {
  stroke-dasharray: 7 2;
}
.moved {
  stroke: var(--mark-moved);
  stroke-dasharray: 1 4;
  stroke-linecap: round;
  stroke-width: 3px;
}
.new {
  stroke: var(--mark-new);
  stroke-width: 3px;
}
.unseen {
  stroke: var(--mark-unseen);
  stroke-dasharray: 2 6;
}
.label {
  position: absolute;
  top: 0.6rem;
  left: 0.6rem;
  padding: var(--space-1) var(--space-2);
  font-weight: 650;
  background: var(--panel);
  border-radius: 4px;
}
.label.right {
  right: 0.6rem;
  left: auto;
}
</style>
