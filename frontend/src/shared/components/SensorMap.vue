<script setup lang="ts">
import { API } from '@/api/root'
import Button from 'primevue/button'
import { computed, onMounted, ref, toRef, watch } from 'vue'
import type { Spot, SpotMap } from '@/api/client'
import { useSpotWalk, type OnScreen } from '@/shared/composables/useSpotWalk'
import { useInSlices } from '@/shared/composables/useInSlices'
import { useSettledMatrix } from '@/shared/composables/useSettledMatrix'
import { useViewer } from '@/shared/composables/useViewer'
import { scaleOf } from '@/shared/lib/geometry'
import { markOf } from '@/shared/lib/marks'
import { spotWords } from '@/shared/lib/spots'
import type { Tone } from '@/shared/lib/tones'
import PredictedShade from './PredictedShade.vue'
import SpotMark from './SpotMark.vue'

const props = defineProps<{
  frameId: number
  facts: SpotMap['frames'][number]
  tilePx: number
  pictured: boolean
  spots: Spot[]
  tone: Tone
  gain: number
  marks: boolean
  predicted: boolean
  noticed: Set<string>
}>()
const selected = defineModel<string | null>('selected', { required: true })

const stage = ref<HTMLElement | null>(null)
const {
  matrix: placed,
  zoomBy,
  home,
  lookAt,
  onResize,
} = useViewer(stage, {
  base: `${API}/frames/${props.frameId}/tiles`,
  width: props.facts.width_px,
  height: props.facts.height_px,
  tilePx: props.tilePx,
  pictured: props.pictured,
  orientation: props.facts.orientation,
  tone: toRef(props, 'tone'),
  gain: toRef(props, 'gain'),
})

const { settled: matrix, drift } = useSettledMatrix(placed)
const scale = computed(() => (matrix.value ? scaleOf(matrix.value) : 1))
const drawn = computed(() => {
  if (props.predicted)
    return props.marks
      ? props.spots.filter((s) => props.noticed.has(s.id)).map((s) => markOf(s, scale.value))
      : []
  if (!props.marks)
    return props.spots.filter((s) => s.id === selected.value).map((s) => markOf(s, scale.value))
  return props.spots.map((s) => markOf(s, scale.value))
})

const made = useInSlices(drawn)

const spotOf = computed(() => new Map(props.spots.map((s) => [s.id, s])))
const labelOf = (id: string): string => {
  const spot = spotOf.value.get(id)
  return spot ? spotWords(spot) : ''
}
const marksLayer = ref<SVGSVGElement | null>(null)
function onScreen(): OnScreen[] {
  const m = matrix.value
  if (!m) return []
  return drawn.value.map((mark) => ({
    id: mark.id,
    x: m[0] * mark.x + m[2] * mark.y,
    y: m[1] * mark.x + m[3] * mark.y,
  }))
}
const { reached, walk } = useSpotWalk(marksLayer, onScreen, selected)

/** The chosen spot is in sight, also when a panel beside the map takes some of its place. */
function showChosen(): void {
  const spot = props.spots.find((s) => s.id === selected.value)
  if (spot) lookAt(spot.x_px, spot.y_px)
}
watch(selected, showChosen)
onMounted(() => onResize(showChosen))
</script>

<template>
  <div class="map">
    <div
      ref="stage"
      class="stage"
      :class="{ away: predicted }"
      role="application"
      aria-label="Picture, zoomable: plus and minus zoom, arrows move"
    />
    <svg
      ref="marksLayer"
      class="marks"
      :style="{ transform: drift }"
      role="group"
      aria-label="Spots; arrow keys lead from one to the next"
    >
      <defs>
        <radialGradient id="shade">
          <stop offset="0.55" stop-color="var(--shade)" />
          <stop offset="1" stop-color="var(--shade)" stop-opacity="0" />
        </radialGradient>
      </defs>
      <g v-if="matrix && predicted" :transform="`matrix(${matrix.join(' ')})`">
        <rect class="paper" x="0" y="0" :width="facts.width_px" :height="facts.height_px" />
        <PredictedShade v-for="s in spots" :key="s.id" :spot="s" :gain="gain" />
      </g>
      <g v-if="matrix" :transform="`matrix(${matrix.join(' ')})`">
        <SpotMark
          v-for="m in made"
          :key="m.id"
          :mark="m"
          :selected="m.id === selected"
          :label="labelOf(m.id)"
          :reached="m.id === reached"
          @choose="selected = m.id"
          @move="walk($event, m.id)"
        />
      </g>
    </svg>
    <p v-if="!pictured" class="making" role="status">Making the picture</p>
    <div class="zoom">
      <Button icon="pi pi-plus" size="small" severity="secondary" aria-label="Zoom in" @click="zoomBy(1.6)" />
      <Button
        icon="pi pi-minus"
        size="small"
        severity="secondary"
        aria-label="Zoom out"
        @click="zoomBy(1 / 1.6)"
      />
      <Button label="Fit to window" size="small" severity="secondary" @click="home" />
    </div>
  </div>
</template>

<style scoped>
.map {
  position: relative;
  min-height: 0;
  background: var(--surround);
  overflow: hidden;
}
/* The zoom buttons stand under the picture, over no spot. */
.stage {
  position: absolute;
  inset: 0 0 48px;
}
.stage.away {
  opacity: 0;
}
.paper {
  fill: var(--surround-even);
  stroke: var(--surround-bright);
  vector-effect: non-scaling-stroke;
}
.marks {
  position: absolute;
  inset: 0 0 48px;
  width: 100%;
  height: calc(100% - 48px);
  overflow: visible;
  pointer-events: none;
  transform-origin: 0 0;
  will-change: transform;
}
.making {
  position: absolute;
  top: 0.8rem;
  left: 50%;
  padding: var(--space-1) var(--space-3);
  background: var(--panel);
  border-radius: 4px;
  transform: translateX(-50%);
}
.zoom {
  position: absolute;
  left: var(--space-2);
  bottom: var(--space-2);
  display: flex;
  gap: var(--space-2);
}
</style>
