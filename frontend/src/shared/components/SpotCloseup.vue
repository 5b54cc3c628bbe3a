<script setup lang="ts">
import { API } from '@/api/root'
import { computed } from 'vue'
import type { Spot, SpotMap } from '@/api/client'
import { tilesUnder } from '@/shared/lib/geometry'
import { toneFilter } from '@/shared/lib/tones'

const SIDE = 130
const props = defineProps<{
  spot: Spot
  frameId: number
  facts: SpotMap['frames'][number]
  tilePx: number
  gain: number
}>()

const size = computed(() => Math.min(900, Math.max(40, props.spot.outer_px * 1.8)))
const left = computed(() => Math.round(props.spot.x_px - size.value / 2))
const top = computed(() => Math.round(props.spot.y_px - size.value / 2))
const zoom = computed(() => SIDE / size.value)
const tiles = computed(() =>
  tilesUnder(
    `${API}/frames/${props.frameId}/tiles/relief`,
    left.value,
    top.value,
    size.value,
    props.facts.width_px,
    props.facts.height_px,
    props.tilePx,
  ),
)
const says = computed(
  () =>
    `${zoom.value >= 1 ? '×' : ''}${zoom.value >= 1 ? zoom.value.toFixed(1) : `1:${(1 / zoom.value).toFixed(1)}`}`,
)
</script>

<template>
  <figure>
    <div
      class="window"
      :style="{ filter: toneFilter('relief', gain) }"
      role="img"
      :aria-label="`Spot ${spot.id} enlarged`"
    >
      <div class="sheet" :style="{ transform: `scale(${zoom})` }">
        <img
          v-for="t in tiles"
          :key="t.url"
          :src="t.url"
          alt=""
          :style="{ left: `${t.x}px`, top: `${t.y}px` }"
        />
      </div>
    </div>
    <figcaption class="soft">{{ says }}, relief</figcaption>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
}
.window {
  position: relative;
  width: 130px;
  height: 130px;
  overflow: hidden;
  background: var(--surround-even);
  border-radius: 4px;
}
.sheet {
  position: absolute;
  transform-origin: 0 0;
}
img {
  position: absolute;
  max-width: none;
}
figcaption {
  font-size: var(--text-small);
}
</style>
