<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink, useRoute } from 'vue-router'

/** Says where one was going, and offers the nearest room. */
const ROOMS: readonly (readonly [string, string, string])[] = [
  ['frame', 'bench', 'the bench, with all frames'],
  ['visit', 'bench', 'the bench, with all open visits'],
  ['compare', 'bench', 'the bench, with all frames'],
  ['bod', 'bodies', 'all cameras'],
  ['camera', 'bodies', 'all cameras'],
  ['picture', 'pictures', 'all sets of pictures'],
  ['job', 'jobs', 'all jobs'],
  ['calendar', 'jobs', 'all jobs'],
  ['kit', 'kit', 'the kit'],
  ['cost', 'kit', 'the kit'],
  ['practice', 'practice', 'practice'],
  ['setting', 'schools', 'the settings'],
  ['school', 'schools', 'the settings'],
]
const route = useRoute()
const wanted = computed(() => decodeURIComponent(route.path))
const near = computed(() => ROOMS.find(([start]) => wanted.value.toLowerCase().startsWith(`/${start}`)))
</script>

<template>
  <section class="nowhere">
    <svg class="drawing" viewBox="0 0 120 70" aria-hidden="true">
      <path class="metal" d="M14 10h92v50h-92z" />
      <path class="most" d="M48 27h24v16h-24z" />
      <path d="M4 66L116 4" />
    </svg>
    <h1>There is no page at {{ wanted }}</h1>
    <p>The link may be old, or cut short.</p>
    <p class="ways">
      <RouterLink v-if="near" :to="{ name: near[1] }">To {{ near[2] }}</RouterLink>
      <RouterLink v-if="near?.[1] !== 'bench'" :to="{ name: 'bench' }">Back to the frames</RouterLink>
    </p>
  </section>
</template>

<style scoped>
.nowhere {
  display: grid;
  gap: var(--space-2);
  justify-items: center;
  max-width: 40rem;
  margin: 0 auto;
  padding: var(--space-6) var(--space-3);
  text-align: center;
}
.nowhere h1 {
  overflow-wrap: anywhere;
}
.drawing {
  width: 180px;
  height: 105px;
}
.ways {
  display: flex;
  gap: var(--space-3);
}
</style>
