<script setup lang="ts">
import Button from 'primevue/button'
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import type { Schemas } from '@/api/client'
import { percent } from '@/shared/lib/format'
import { lineThrough, skills } from './overTime'
import ExerciseDrawing from './ExerciseDrawing.vue'
import type { ExerciseName, PracticeRoute } from './practice'
import TopicBars from './TopicBars.vue'
import TryList from './TryList.vue'

/** One exercise: what it is and, once tried, how it goes. `lead`: the one proposed. */
const props = defineProps<{
  exercise: ExerciseName
  name: string
  words: string
  to: PracticeRoute
  progress: Schemas['Progress'] | null
  lead: boolean
}>()
const router = useRouter()
/** From the second try on there is a way to look back on. */
const course = computed(() => skills(props.progress?.tries ?? []))
const line = computed(() => (course.value.length > 1 ? lineThrough(course.value) : ''))
</script>

<template>
  <article :class="{ lead }">
    <ExerciseDrawing :exercise="exercise" class="picture" />
    <div class="told">
      <h2>{{ name }}</h2>
      <p>{{ words }}</p>
      <p>
        <Button
          class="works"
          label="Begin"
          icon="pi pi-play"
          :severity="lead ? undefined : 'secondary'"
          :variant="lead ? undefined : 'outlined'"
          :aria-label="`Begin ${name.toLowerCase()}`"
          @click="router.push({ name: to })"
        />
      </p>
      <svg
        v-if="line"
        class="course"
        viewBox="-2 -2 104 28"
        role="img"
        :aria-label="`Over the last ${progress?.tries.length} tries, from ${percent(course[0] ?? 0)} to ${percent(course.at(-1) ?? 0)}`"
      >
        <polyline :points="line" />
      </svg>
      <template v-if="progress?.tries.length">
        <TopicBars :topics="progress.topics" />
        <TryList :tries="progress.tries" :to="to" />
      </template>
    </div>
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
article.lead {
  grid-template-columns: 300px minmax(0, 1fr);
  gap: var(--space-5);
  align-items: center;
  grid-column: 1 / -1;
}
.picture {
  height: 110px;
}
.lead .picture {
  height: 180px;
}
.told {
  display: grid;
  gap: var(--space-2);
}
@media (max-width: 700px) {
  article.lead {
    grid-template-columns: minmax(0, 1fr);
  }
}
.course {
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
