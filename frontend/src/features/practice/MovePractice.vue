<script setup lang="ts">
import Button from 'primevue/button'
import { computed, watch } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api, type Decision, type Schemas } from '@/api/client'
import { STEP_WORDS } from '@/shared/lib/steps'
import ExercisePage from './ExercisePage.vue'
import SituationDrawing from './SituationDrawing.vue'
import { useExercise } from './useExercise'

/** A situation, the moves to choose from, and afterwards the advice with its reasons. */
const props = defineProps<{ seed: number | null }>()
type Question = Schemas['MoveQuestion']
type Debrief = Schemas['MoveDebrief']
const router = useRouter()
const { question, debrief, asking, answering, seconds } = useExercise<Question, Debrief>()
function draw(seed: number | null): void {
  const query = seed === null ? {} : { seed }
  void asking.tell(() => answer(api.GET('/api/practice/moves', { params: { query } })))
}
watch(
  () => props.seed,
  (seed) => {
    if (seed === null || seed !== question.value?.seed) draw(seed)
  },
  { immediate: true },
)
function choose(chosen: Decision): void {
  const now = question.value
  if (!now || debrief.value) return
  const body = { seed: now.seed, chosen, seconds: seconds() }
  void answering.tell(() => answer(api.POST('/api/practice/moves', { body })))
}
function another(): void {
  if (props.seed === null) draw(null)
  else void router.replace({ name: 'practice-moves' })
}
const verdict = computed(() => {
  const d = debrief.value
  if (!d) return ''
  if (d.right) return 'Right.'
  if (d.unsafe) return 'Unsafe now.'
  return d.also_sound ? 'Sound, too: another school does so.' : 'Not the advice.'
})
</script>

<template>
  <ExercisePage
    title="Next move"
    :error="asking.error.value || answering.error.value"
    :verdict="verdict"
    :good="debrief?.right || debrief?.also_sound"
    :bad="debrief?.unsafe"
    :again="{ name: 'practice-moves', query: { seed: question?.seed } }"
    :again-words="`Situation ${question?.seed}`"
    @another="another"
  >
    <template v-if="question">
      <SituationDrawing :drawn="question.drawn" :lines="question.lines" />
      <h2>What comes next?</h2>
      <div class="choices">
        <Button
          v-for="c in question.choices"
          :key="c"
          :label="STEP_WORDS[c]"
          :severity="debrief && c === debrief.advice.decision ? undefined : 'secondary'"
          :variant="debrief && c === debrief.advice.decision ? undefined : 'outlined'"
          :class="{ chosen: c === debrief?.chosen }"
          :aria-pressed="c === debrief?.chosen"
          :disabled="
            answering.busy.value ||
            (debrief !== null && c !== debrief.advice.decision && c !== debrief.chosen)
          "
          @click="choose(c)"
        />
      </div>
    </template>
    <template v-if="debrief" #told>
      <p v-if="debrief.bar">{{ debrief.bar }}</p>
      <p>
        <strong>{{ debrief.advice.title }}.</strong> {{ debrief.advice.why.join(' ') }}
      </p>
      <ul>
        <li v-for="c in debrief.advice.cautions.slice(0, 5)" :key="c.code">{{ c.text }}</li>
      </ul>
    </template>
  </ExercisePage>
</template>

<style scoped>
.choices {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2) var(--space-3);
  align-items: center;
}
.chosen {
  outline: 3px solid var(--accent);
  outline-offset: 2px;
}
</style>
