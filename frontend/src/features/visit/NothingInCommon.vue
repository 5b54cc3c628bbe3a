<script setup lang="ts">
import { API } from '@/api/root'
import Button from 'primevue/button'
import { computed } from 'vue'
import type { Visit } from '@/api/client'
import { count, fStop } from '@/shared/lib/format'
import type { Explanation } from './useVisit'

/** Two frames with nothing in common: both are shown, and the visit waits for the reason. */
const props = defineProps<{ visit: Visit; busy: boolean }>()
const emit = defineEmits<{ explain: [entryId: number, why: Explanation] }>()
const pair = computed(() => {
  const entries = props.visit.place?.unexplained
  const found = props.visit.trail.filter((i) => i.frame && entries?.includes(i.id))
  return found.length === 2 ? found : null
})
const newer = computed(() => pair.value?.[1]?.id ?? 0)
</script>

<template>
  <section v-if="pair" class="question" aria-label="Nothing in common">
    <h2>These two frames have nothing in common</h2>
    <p>
      No mark keeps its place between them, and no step lies between. Nothing is concluded until you say why.
    </p>
    <ul class="pair">
      <li v-for="(item, i) in pair" :key="item.id">
        <img
          :src="`${API}/frames/${item.frame?.frame_id}/thumb/relief.jpg`"
          :alt="i ? 'The newer frame' : 'The earlier frame'"
          width="480"
          height="320"
        />
        <strong>{{ item.frame?.name }}</strong>
        <span class="soft"
          >{{ count(item.frame?.count ?? 0, 'spot') }}, {{ fStop(item.frame?.f_number ?? null) }}</span
        >
        <Button
          class="works"
          :label="i ? 'The newer is another camera' : 'The earlier is another camera'"
          size="small"
          severity="secondary"
          variant="outlined"
          :disabled="busy"
          @click="emit('explain', item.id, 'camera')"
        />
      </li>
    </ul>
    <div class="reasons">
      <Button
        class="works"
        label="The camera was cleaned or used in between"
        size="small"
        severity="secondary"
        variant="outlined"
        :disabled="busy"
        @click="emit('explain', newer, 'session')"
      />
      <Button
        class="works"
        label="The marks are on the target"
        size="small"
        severity="secondary"
        variant="outlined"
        :disabled="busy"
        @click="emit('explain', newer, 'target')"
      />
    </div>
    <p class="soft">Not sure? Shoot one more frame of this camera, moved in between.</p>
  </section>
</template>

<style scoped>
.question {
  display: grid;
  gap: var(--space-2);
  padding: var(--space-2) var(--space-3);
  background: var(--warn-wash);
  border-radius: 5px;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: var(--space-2);
  margin: 0;
  padding: 0;
  list-style: none;
}
.pair li {
  display: grid;
  gap: var(--space-1);
  align-content: start;
  min-width: 0;
}
.pair strong {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
img {
  width: 100%;
  height: auto;
  aspect-ratio: 3 / 2;
  object-fit: contain;
  background: var(--surround);
}
.reasons {
  display: grid;
  gap: var(--space-1);
}
</style>
