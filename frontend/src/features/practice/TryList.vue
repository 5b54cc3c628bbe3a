<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import type { Schemas } from '@/api/client'
import { day } from '@/shared/lib/format'
import { levelIn, tryWords, type PracticeRoute } from './practice'

/** The last tries, each to be repeated with its seed. */
const props = defineProps<{ tries: Schemas['TryShown'][]; to: PracticeRoute }>()
const FEW = 5
const shown = computed(() => props.tries.slice(0, FEW))
function target(t: Schemas['TryShown']) {
  const level = levelIn(t.topic)
  const which = level === null ? { topic: t.topic } : { level: String(level) }
  return { name: props.to, query: { seed: String(t.seed), ...which } }
}
</script>

<template>
  <div>
    <h3>Lately</h3>
    <ul>
      <li v-for="t in shown" :key="t.at">
        <span>{{ tryWords(t) }}</span>
        <span class="soft">{{ day(t.at) }}</span>
        <RouterLink :to="target(t)">Again</RouterLink>
      </li>
    </ul>
  </div>
</template>

<style scoped>
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-1) var(--space-3);
}
li span:first-child {
  flex: 1;
  min-width: 12em;
}
</style>
