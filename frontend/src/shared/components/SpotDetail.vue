<script setup lang="ts">
import { computed } from 'vue'
import type { Spot, SpotMap } from '@/api/client'
import { useSettings } from '@/shared/composables/useSettings'
import { fStop, micrometres, percent, pixels } from '@/shared/lib/format'
import { KIND_HINTS, KIND_WORDS, placeWords } from '@/shared/lib/spots'
import SpotCloseup from './SpotCloseup.vue'
import SpotProfile from './SpotProfile.vue'

const props = defineProps<{
  spot: Spot
  frameId: number
  facts: SpotMap['frames'][number]
  tilePx: number
  gain: number
}>()

const { mm } = useSettings()
const side = (way: number, less: string, more: string): string =>
  `${mm(Math.round(Math.abs(way) * 10) / 10)} ${way < 0 ? less : more}`
const size = computed(() => {
  const { kind, particle_um: particle, length_um: length } = props.spot
  if (particle === null) return null
  if (kind === 'fibre') return ['Thread', `${micrometres(particle)} thick, ${micrometres(length)} long`]
  if (kind === 'residue') return ['Length', micrometres(length)]
  return [props.spot.kind === 'speck' ? 'Particle' : 'Equivalent diameter', `${micrometres(particle)}`]
})
const place = computed(() => {
  const { x_mm: x, y_mm: y } = props.spot
  if (x === null || y === null) return props.spot.zone
  return `${props.spot.zone}: ${side(x, 'left', 'right')}, ${side(y, 'up', 'down')}`
})
</script>

<template>
  <section class="detail" :aria-label="`Spot ${spot.id}`">
    <div>
      <SpotCloseup :spot="spot" :frame-id="frameId" :facts="facts" :tile-px="tilePx" :gain="gain" />
      <SpotProfile :spot="spot" :frame-id="frameId" :facts="facts" :tile-px="tilePx" />
    </div>
    <div>
      <h2>{{ KIND_WORDS[spot.kind] }} {{ spot.id }}</h2>
      <p class="soft">{{ KIND_HINTS[spot.kind] }}. {{ placeWords(spot) }}.</p>
      <dl>
        <dt>Light lost</dt>
        <dd>{{ percent(spot.depth) }}</dd>
        <dt>Shadow</dt>
        <dd>{{ spot.outer_um === null ? pixels(spot.outer_px) : micrometres(spot.outer_um) }} wide</dd>
        <template v-if="size"
          ><dt>{{ size[0] }}</dt>
          <dd>{{ size[1] }}</dd></template
        >
        <dt>Visible from</dt>
        <dd>{{ spot.shows_from_f === null ? 'no aperture' : fStop(spot.shows_from_f) }}</dd>
        <dt>Place</dt>
        <dd>{{ place }}</dd>
        <dt>Strength</dt>
        <dd>{{ spot.snr.toFixed(0) }} × noise</dd>
      </dl>
      <slot />
    </div>
  </section>
</template>

<style scoped>
.detail {
  display: grid;
  grid-template-columns: 130px 1fr;
  gap: var(--space-3);
  padding-top: var(--space-2);
  border-top: 1px solid var(--line);
}
dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 0.1rem var(--space-2);
  margin: var(--space-2) 0 0;
  font-size: var(--text-small);
}
dt {
  color: var(--ink-soft);
}
dd {
  margin: 0;
}
</style>
