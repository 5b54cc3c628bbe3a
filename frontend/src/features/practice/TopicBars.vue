<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { capital } from '@/shared/lib/format'
import { topicWords } from './practice'

/** How each topic goes, the weakest first. */
defineProps<{ topics: Schemas['TopicProgress'][] }>()
</script>

<template>
  <ul>
    <li v-for="t in topics" :key="t.topic">
      <span>{{ capital(t.topic) }}</span>
      <span class="bar" aria-hidden="true"
        ><span :style="{ width: `${t.tries ? 100 * t.skill : 0}%` }"
      /></span>
      <span class="soft">{{ topicWords(t) }}</span>
    </li>
  </ul>
</template>

<style scoped>
ul {
  display: grid;
  gap: var(--space-1);
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: 7em minmax(40px, 1fr) minmax(0, 11em);
  gap: var(--space-2);
  align-items: center;
}
.bar {
  height: 8px;
  background: var(--line);
  border-radius: 4px;
  overflow: hidden;
}
.bar span {
  display: block;
  height: 100%;
  background: var(--accent);
}
</style>
