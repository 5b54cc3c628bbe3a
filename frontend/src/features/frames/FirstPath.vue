<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import type { Verdict } from './verdict'

/** The way from the first map on: fit? what shows? what now? */
const props = defineProps<{ verdict: Verdict; frameId: number }>()
const isFit = computed(() => props.verdict.tone !== 'stop')
const shows = computed(() => (isFit.value ? props.verdict.headline : 'What shows'))
</script>

<template>
  <ol class="path" aria-label="From the first map on">
    <li :class="{ done: isFit }">
      <i class="pi" :class="isFit ? 'pi-check' : 'pi-times'" aria-hidden="true" />
      {{ isFit ? 'Fit to judge by' : 'Not fit to judge by' }}
    </li>
    <li :class="{ done: isFit }">
      <i class="pi" :class="isFit ? 'pi-check' : 'pi-circle'" aria-hidden="true" /> {{ shows }}
    </li>
    <li>
      <i class="pi pi-arrow-right" aria-hidden="true" />
      <RouterLink v-if="isFit" :to="{ name: 'bodies', query: { frame: frameId } }"
        >Say which camera, and see the next move</RouterLink
      >
      <RouterLink v-else :to="{ name: 'bench' }">Shoot again and drop it here</RouterLink>
    </li>
  </ol>
</template>

<style scoped>
.path {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-1) var(--space-4);
  margin: 0;
  padding: var(--space-2) var(--space-3);
  list-style: none;
  background: var(--accent-wash);
  border-bottom: 1px solid var(--line);
}
.done {
  color: var(--good);
}
</style>
