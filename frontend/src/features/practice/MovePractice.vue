<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import Button from 'primevue/button'
import { computed, nextTick, ref, watch } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { answer, api, type Decision, type Schemas } from '@/api/client'
import BackLink from '@/shared/components/BackLink.vue'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useTell } from '@/shared/composables/useTell'
import { capital } from '@/shared/lib/format'
import { STEP_WORDS } from '@/shared/lib/steps'
import { stopwatch } from './practice'

/** A situation, the moves to choose from, and afterwards the advice with its reasons. */
const props = defineProps<{ seed: number | null }>()
type Question = Schemas['MoveQuestion']
type Debrief = Schemas['MoveDebrief']
const client = useQueryClient()
const router = useRouter()
const question = ref<Question | null>(null)
const debrief = ref<Debrief | null>(null)
const told = ref<HTMLElement | null>(null)
let seconds = stopwatch()
const asking = useTell<Question>((now) => {
  question.value = now
  debrief.value = null
  seconds = stopwatch()
})
const answering = useTell<Debrief>((now) => {
  debrief.value = now
  void client.invalidateQueries({ queryKey: ['practice'] })
  void nextTick(() => told.value?.focus())
})
function draw(seed: number | null): void {
  const query = seed === null ? {} : { seed }
  void asking.tell(() => answer(api.GET('/api/practice/moves', { params: { query } })) as Promise<Question>)
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
  const body = { seed: now.seed, chosen, seconds: Math.min(seconds(), 86_400) }
  void answering.tell(() => answer(api.POST('/api/practice/moves', { body })) as Promise<Debrief>)
}
function another(): void {
  if (props.seed === null) draw(null)
  else void router.replace({ name: 'practice-moves' })
}
const groups = computed(() => {
  const found = new Map<string, string[]>()
  for (const line of question.value?.lines ?? []) {
    found.set(line.about, [...(found.get(line.about) ?? []), line.words])
  }
  return [...found]
})
const verdict = computed(() => {
  const d = debrief.value
  if (!d) return ''
  if (d.right) return 'Right.'
  if (d.unsafe) return 'Unsafe now.'
  return d.also_sound ? 'Sound, too: another school does so.' : 'Not the advice.'
})
</script>

<template>
  <section class="page">
    <BackLink :home="{ name: 'practice' }" home-words="Practice" />
    <h1>Next move</h1>
    <FailureNote :error="asking.error.value || answering.error.value" />
    <template v-if="question">
      <dl>
        <template v-for="[about, lines] in groups" :key="about">
          <dt>{{ capital(about) }}</dt>
          <dd>
            <p v-for="words in lines" :key="words">{{ words }}</p>
          </dd>
        </template>
      </dl>
      <div class="answer">
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
        <div v-if="debrief" ref="told" class="told" tabindex="-1" role="status">
          <p class="verdict" :class="{ good: debrief.right || debrief.also_sound, bad: debrief.unsafe }">
            {{ verdict }}
          </p>
          <p v-if="debrief.bar">{{ debrief.bar }}</p>
          <p>
            <strong>{{ debrief.advice.title }}.</strong> {{ debrief.advice.why.join(' ') }}
          </p>
          <ul>
            <li v-for="c in debrief.advice.cautions.slice(0, 5)" :key="c.code">{{ c.text }}</li>
          </ul>
          <p class="row">
            <Button label="Another" icon="pi pi-arrow-right" @click="another" />
            <RouterLink :to="{ name: 'practice-moves', query: { seed: question.seed } }">
              Situation {{ question.seed }}
            </RouterLink>
          </p>
        </div>
      </div>
    </template>
  </section>
</template>

<style scoped>
.page {
  display: grid;
  gap: var(--space-3);
  max-width: 1100px;
  margin: 0 auto;
  padding: var(--space-4);
}
dl {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: var(--space-1) var(--space-3);
  margin: 0;
  padding: var(--space-3);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 6px;
}
dt {
  font-weight: 650;
}
dd {
  margin: 0;
}
.answer,
.told {
  display: grid;
  gap: var(--space-2);
}
.told:focus {
  outline: none;
}
.choices,
.row {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2) var(--space-3);
  align-items: center;
}
.chosen {
  outline: 3px solid var(--accent);
  outline-offset: 2px;
}
.verdict {
  font-size: var(--text-lead);
  font-weight: 650;
}
.good {
  color: var(--good);
}
.bad {
  color: var(--stop);
}
ul {
  margin: 0;
  padding-left: 1.2em;
}
</style>
