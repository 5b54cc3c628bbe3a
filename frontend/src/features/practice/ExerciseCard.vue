<script setup lang="ts">
import Button from 'primevue/button'
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import type { Schemas } from '@/api/client'
import { queries } from '@/api/queries'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useAsk } from '@/shared/composables/useAsk'
import { percent } from '@/shared/lib/format'
import { lineThrough, skills } from './overTime'
import type { PracticeRoute } from './practice'
import TopicBars from './TopicBars.vue'
import TryList from './TryList.vue'

/** One exercise: what it is, how it goes, and the last tries. */
const props = defineProps<{
  exercise: Schemas['Progress']['exercise']
  name: string
  words: string
  to: PracticeRoute
}>()
const router = useRouter()
const { value: progress, error } = useAsk(() => queries.practice(props.exercise))
/** From the second try on there is a way to look back on. */
const course = computed(() => skills(progress.value?.tries ?? []))
const line = computed(() => (course.value.length > 1 ? lineThrough(course.value) : ''))
</script>

<template>
  <article>
    <h2>{{ name }}</h2>
    <p>{{ words }}</p>
    <FailureNote :error="error" />
    <p>
      <Button
        class="works"
        label="Begin"
        icon="pi pi-play"
        :aria-label="`Begin ${name.toLowerCase()}`"
        @click="router.push({ name: to })"
      />
    </p>
    <svg
      v-if="line"
      viewBox="-2 -2 104 28"
      role="img"
      :aria-label="`Over the last ${progress?.tries.length} tries, from ${percent(course[0] ?? 0)} to ${percent(course.at(-1) ?? 0)}`"
    >
      <polyline :points="line" />
    </svg>
    <TopicBars v-if="progress" :topics="progress.topics" />
    <TryList v-if="progress?.tries.length" :tries="progress.tries" :to="to" />
  </article>
</template>

<style scoped>
article {
  display: grid;
  gap: var(--space-2);
  align-content: start;
  padding: var(--space-3);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 6px;
}
svg {
  width: 100%;
  max-width: 22em;
  height: 3em;
}
polyline {
  fill: none;
  stroke: var(--accent);
  stroke-width: 1.6;
  vector-effect: non-scaling-stroke;
}
</style>
