<script setup lang="ts">
import { computed } from 'vue'
import { queries } from '@/api/queries'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useAsk } from '@/shared/composables/useAsk'
import ExerciseCard from './ExerciseCard.vue'
import { EXERCISES, proposed } from './practice'

/** Short exercises with a hidden truth; nothing practised touches the record or the kit. */
const asked = EXERCISES.map((e) => ({ ...e, ...useAsk(() => queries.practice(e.exercise)) }))
const error = computed(() => asked.map((a) => a.error.value).find(Boolean) ?? '')
const first = computed(() => proposed(asked.flatMap((a) => a.value.value ?? [])))
const shown = computed(() =>
  asked
    .map((a) => ({ ...a, progress: a.value.value, lead: a.exercise === first.value }))
    .sort((a, b) => Number(b.lead) - Number(a.lead)),
)
</script>

<template>
  <section class="page">
    <div>
      <h1>Practice</h1>
      <p class="soft">Costs nothing; touches neither record nor kit.</p>
    </div>
    <FailureNote :error="error" />
    <ExerciseCard
      v-for="e in shown"
      :key="e.exercise"
      :exercise="e.exercise"
      :name="e.name"
      :words="e.words"
      :to="e.to"
      :progress="e.progress"
      :lead="e.lead"
    />
  </section>
</template>

<style scoped>
.page {
  grid-template-columns: repeat(auto-fit, minmax(min(100%, 270px), 1fr));
}
.page > :not(article) {
  grid-column: 1 / -1;
}
</style>
