<script setup lang="ts">
import Button from 'primevue/button'
import { computed, ref, watch } from 'vue'
import { answer, api, type Decision, type Schemas } from '@/api/client'
import { queries } from '@/api/queries'
import { ROOM } from '@/api/root'
import { useAsk } from '@/shared/composables/useAsk'
import { useTell } from '@/shared/composables/useTell'
import { STEP_WORDS } from '@/shared/lib/steps'
import ExercisePage from './ExercisePage.vue'

/** A whole clean: begun here, done in the real visit screens, its two lines laid side by side here. */
const props = defineProps<{ seed: number | null; visit: number | null }>()
type Begun = Schemas['CleanBegun']
type Debrief = Schemas['CleanDebrief']
const inRoom = (begun: Begun): string => `${ROOM}/visits/${begun.visit_id}`
const debrief = ref<Debrief | null>(null)
const { value: now, error: away } = useAsk(queries.cleanNow)
const beginning = useTell<Begun>((begun) => {
  window.location.assign(inRoom(begun))
})
const telling = useTell<Debrief>((told) => {
  debrief.value = told
})
function begin(seed: number | null): void {
  const query = seed === null ? {} : { seed }
  void beginning.tell(() => answer(api.POST('/api/practice/cleans', { params: { query } })))
}
function tell(visit_id: number): void {
  void telling.tell(() =>
    answer(api.POST('/api/practice/cleans/{visit_id}/debrief', { params: { path: { visit_id } } })),
  )
}
watch(
  () => props.visit,
  (visit) => {
    if (visit !== null) tell(visit)
  },
  { immediate: true },
)
const FIGURES = [
  ['Visible spots left', 'visible'],
  ['Times the glass was touched', 'touches'],
  ['Single-use pieces', 'pieces'],
  ['Minutes open', 'minutes_open'],
] as const
const steps = (line: Schemas['CleanLine']): string =>
  line.steps.map((s) => STEP_WORDS[s as Decision]).join(', then ') || 'nothing'
const verdict = computed(() => {
  const d = debrief.value
  if (!d) return ''
  if (d.right) return 'As good as the advice, or better.'
  return d.unsafe ? 'Risks were taken.' : 'The advice did better.'
})
</script>

<template>
  <ExercisePage
    title="A whole clean"
    :error="away || beginning.error.value || telling.error.value"
    :verdict="verdict"
    :good="debrief?.right"
    :bad="debrief?.unsafe"
    :again="{ name: 'practice-clean', query: { seed: debrief?.seed } }"
    :again-words="`Camera ${debrief?.seed}`"
    @another="begin(null)"
  >
    <template v-if="!debrief">
      <p>
        One invented camera with hidden dirt, from the first frame to your verdict, in the real screens of a
        visit. Each step works by hidden odds. When you close the visit, your line is laid beside the advised
        one.
      </p>
      <p class="tools">
        <Button
          :label="seed === null ? 'Begin' : `Begin with camera ${seed}`"
          icon="pi pi-play"
          :disabled="beginning.busy.value"
          @click="begin(seed)"
        />
        <a v-if="now?.begun && now.open" :href="inRoom(now.begun)"
          >Continue with camera {{ now.begun.seed }}</a
        >
        <a v-else-if="now?.begun" :href="`/practice/clean?visit=${now.begun.visit_id}`">
          How camera {{ now.begun.seed }} went
        </a>
      </p>
      <p v-if="now?.begun" class="soft">Beginning anew clears the last one away.</p>
    </template>
    <template v-if="debrief" #told>
      <p>{{ debrief.lines.join(' ') }}</p>
      <table>
        <thead>
          <tr>
            <th scope="col">{{ debrief.begun_with }} visible at first</th>
            <th scope="col">Your line</th>
            <th scope="col">Advised line</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="[words, figure] in FIGURES" :key="figure">
            <th scope="row">{{ words }}</th>
            <td>{{ debrief.yours[figure] }}</td>
            <td>{{ debrief.advised[figure] }}</td>
          </tr>
          <tr>
            <th scope="row">Done against what was barred</th>
            <td>{{ debrief.yours.risks.length }}</td>
            <td>0</td>
          </tr>
          <tr>
            <th scope="row">Steps</th>
            <td>{{ steps(debrief.yours) }}</td>
            <td>{{ steps(debrief.advised) }}</td>
          </tr>
        </tbody>
      </table>
      <ul v-if="debrief.yours.risks.length">
        <li v-for="(r, i) in debrief.yours.risks" :key="i">Done anyway: {{ r }}</li>
      </ul>
      <p class="soft">
        Both lines met the same dirt and the same luck. Minutes that nobody measured are assumed by step; the
        odds are made up, and stand for no real tool.
      </p>
    </template>
  </ExercisePage>
</template>

<style scoped>
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2) var(--space-3);
  align-items: center;
}
table {
  border-collapse: collapse;
  background: var(--panel);
}
th,
td {
  padding: var(--space-2) var(--space-3);
  border: 1px solid var(--line);
  text-align: left;
  vertical-align: top;
}
th[scope='row'] {
  font-weight: 400;
}
</style>
