<script setup lang="ts">
import { API } from '@/api/root'
import { computed, ref, watch } from 'vue'
import type { Spot, SpotMap } from '@/api/client'
import { micrometres, percent, pixels } from '@/shared/lib/format'
import { tilesUnder } from '@/shared/lib/geometry'
import { cutThrough, lightOf } from '@/shared/lib/profile'

/** The light along a line through a spot, read from the picture as it was shot. */
const props = defineProps<{
  spot: Spot
  frameId: number
  facts: SpotMap['frames'][number]
  tilePx: number
}>()
const WIDE = 260
const HIGH = 96
const MOST_PX = 480

const size = computed(() => Math.ceil(Math.min(MOST_PX, Math.max(32, props.spot.outer_px * 2.4))))
const values = ref<number[]>([])
let asked = 0

function loaded(url: string): Promise<HTMLImageElement> {
  return new Promise((resolve, reject) => {
    const image = new Image()
    image.onload = () => resolve(image)
    image.onerror = () => reject(new Error(url))
    image.src = url
  })
}

async function read(): Promise<void> {
  const mine = ++asked
  values.value = []
  const side = size.value
  const [left, top] = [Math.round(props.spot.x_px - side / 2), Math.round(props.spot.y_px - side / 2)]
  const { width_px, height_px } = props.facts
  const base = `${API}/frames/${props.frameId}/tiles/shot`
  const canvas = document.createElement('canvas')
  canvas.width = canvas.height = side
  const pen = canvas.getContext('2d', { willReadFrequently: true })
  if (!pen) return
  try {
    const tiles = tilesUnder(base, left, top, side, width_px, height_px, props.tilePx)
    const images = await Promise.all(tiles.map((t) => loaded(t.url)))
    tiles.forEach((t, i) => pen.drawImage(images[i] as HTMLImageElement, t.x, t.y))
  } catch {
    return // without its tiles there is no profile; the figures beside it stand
  }
  if (mine !== asked) return
  const light = lightOf(pen.getImageData(0, 0, side, side).data)
  values.value = cutThrough(light, side, across(props.spot), props.spot.kind === 'fibre' ? 3 : 1)
}

/** A thread is cut across, everything else from left to right. */
function across(spot: Spot): number {
  return spot.angle_deg == null ? 0 : ((spot.angle_deg + 90) * Math.PI) / 180
}

watch([() => props.spot.id, () => props.frameId, size], () => void read(), { immediate: true })

const lowest = computed(() => Math.min(0.9, ...values.value))
const floor = computed(() => Math.max(0, Math.floor((lowest.value - 0.03) * 10) / 10))
const y = (light: number): number => 4 + ((1.05 - light) / (1.05 - floor.value)) * (HIGH - 8)
const line = computed(() =>
  values.value
    .map(
      (v, i) => `${i ? 'L' : 'M'}${((i / (values.value.length - 1)) * WIDE).toFixed(1)} ${y(v).toFixed(1)}`,
    )
    .join(' '),
)
const wide = computed(() => {
  const { outer_um, outer_px } = props.spot
  return outer_um === null ? pixels(size.value) : micrometres((size.value * outer_um) / outer_px)
})
const words = computed(
  () => `Light through the spot: falls to ${percent(Math.max(0, lowest.value))} over ${wide.value}`,
)
</script>

<template>
  <figure v-if="values.length > 1" class="profile">
    <svg :viewBox="`0 0 ${WIDE} ${HIGH}`" role="img" :aria-label="words">
      <path class="full" :d="`M0 ${y(1)} H${WIDE}`" />
      <path class="light" :d="line" />
    </svg>
    <figcaption class="soft">
      {{ words.replace('Light through the spot: falls', 'Light along a line through it falls') }}
    </figcaption>
  </figure>
</template>

<style scoped>
.profile {
  margin: 0;
}
svg {
  display: block;
  width: 100%;
  background: var(--room);
  border: 1px solid var(--line);
  border-radius: 3px;
}
.full {
  stroke: var(--ink-soft);
  stroke-dasharray: 4 3;
}
.light {
  fill: none;
  stroke: var(--accent);
  stroke-width: 2;
}
figcaption {
  font-size: var(--text-small);
}
</style>
