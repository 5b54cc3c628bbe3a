<script setup lang="ts">
import Button from 'primevue/button'
import { computed } from 'vue'
import type { Spot } from '@/api/client'
import { count } from '@/shared/lib/format'
import { countKinds, KIND_HINTS, KIND_WORDS } from '@/shared/lib/spots'
import KindSign from './KindSign.vue'

/** What the shapes and lines of the map mean, with how many of each this frame has. */
const props = defineProps<{ spots: Spot[] }>()
defineEmits<{ close: [] }>()
const own = computed(() => props.spots.filter((s) => s.site !== 'scene'))
const kinds = computed(() => countKinds(own.value))
const unsure = computed(() => own.value.filter((s) => s.site === 'unsure').length)
const inside = computed(() => own.value.filter((s) => s.inside_filter).length)
const lens = computed(() => own.value.filter((s) => s.site === 'lens').length)
const wall = computed(() => props.spots.length - own.value.length)
</script>

<template>
  <section class="legend" aria-label="Legend">
    <Button
      icon="pi pi-times"
      size="small"
      severity="secondary"
      variant="text"
      aria-label="Close the legend"
      class="close"
      @click="$emit('close')"
    />
    <ul>
      <li v-for="k in kinds" :key="k.kind">
        <KindSign :kind="k.kind" />
        <span
          ><strong>{{ k.count }} × {{ KIND_WORDS[k.kind] }}</strong> {{ KIND_HINTS[k.kind] }}</span
        >
      </li>
      <li>
        <svg width="18" height="14" viewBox="0 0 18 14" aria-hidden="true">
          <circle cx="9" cy="7" r="5" stroke-dasharray="4 3" />
        </svg>
        <span><strong>Dashed</strong> sensor or lens, not yet told apart: {{ unsure || 'none' }}</span>
      </li>
      <li>
        <svg width="18" height="14" viewBox="0 0 18 14" aria-hidden="true">
          <circle cx="9" cy="7" r="5" stroke-dasharray="5 3 0.1 3" stroke-linecap="round" />
        </svg>
        <span><strong>Dash and dot</strong> on the lens: {{ lens || 'none' }}</span>
      </li>
      <li v-if="inside">
        <svg width="18" height="14" viewBox="0 0 18 14" aria-hidden="true">
          <circle cx="9" cy="7" r="5" stroke-dasharray="4 2.5 0.1 2.5 0.1 2.5" stroke-linecap="round" />
        </svg>
        <span><strong>Dash and two dots</strong> inside the filter, for a service only: {{ inside }}</span>
      </li>
      <li>
        <svg width="18" height="14" viewBox="0 0 18 14" aria-hidden="true">
          <path d="M5 3l8 8m0 -8l-8 8" />
        </svg>
        <span
          ><strong>Cross</strong> on the target, not the camera: {{ wall ? count(wall, 'mark') : 'none' }},
          counted nowhere</span
        >
      </li>
    </ul>
  </section>
</template>

<style scoped>
.legend {
  max-width: 330px;
  padding: var(--space-2) var(--space-3);
  font-size: var(--text-small);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 5px;
}
ul {
  display: grid;
  gap: var(--space-1);
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: 20px 1fr;
  gap: var(--space-2);
  align-items: start;
}
svg {
  margin-top: var(--space-1);
  fill: none;
  stroke: currentcolor;
  stroke-width: 1.6;
}
.close {
  float: right;
}
</style>
