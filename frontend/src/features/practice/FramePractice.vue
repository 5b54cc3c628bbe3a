<script setup lang="ts">
import { API } from '@/api/root'
import Button from 'primevue/button'
import SelectButton from 'primevue/selectbutton'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api, type Schemas } from '@/api/client'
import { exposure } from '@/shared/lib/format'
import ExercisePage from './ExercisePage.vue'
import { MARK_WORDS, type MarkKind } from './practice'
import { useExercise } from './useExercise'

/** A frame to read: what each mark is, told on two frames; or whether the frame is fit at all. */
const props = defineProps<{ seed: number | null; topic: string | null }>()
type Question = Schemas['FrameQuestion']
type Debrief = Schemas['FrameDebrief']
type Topic = Question['topic']
interface Told {
  x_px: number
  y_px: number
  kind: MarkKind
}
const KINDS = Object.entries(MARK_WORDS).map(([kind, words], n) => ({
  kind: kind as MarkKind,
  words: `${n + 1} ${words}`,
}))
const STEP_PX = 20
const NEAR_PX = 30
const router = useRouter()
const told = ref<Told[]>([])
const kind = ref<MarkKind>('speck')
const second = ref(false)
const shown = ref('')
const aim = ref({ x: 600, y: 400 })
const plate = ref<SVGSVGElement | null>(null)
const { question, debrief, asking, answering, seconds } = useExercise<Question, Debrief>(() => {
  told.value = []
  second.value = false
})
function draw(seed: number | null, topic: string | null): void {
  const query = { ...(seed === null ? {} : { seed }), ...(topic === null ? {} : { topic: topic as Topic }) }
  void asking.tell(() => answer(api.GET('/api/practice/frames', { params: { query } })))
}
watch(
  () => [props.seed, props.topic] as const,
  ([seed, topic]) => {
    draw(seed, topic)
  },
  { immediate: true },
)
function another(): void {
  if (props.seed === null && props.topic === null) draw(null, null)
  else void router.replace({ name: 'practice-frames' })
}
function say(remedy: Schemas['Reading']['remedy'] = null): void {
  const now = question.value
  if (!now || debrief.value) return
  second.value = false
  const body = {
    seed: now.seed,
    topic: now.topic,
    reading: { marks: told.value, remedy },
    seconds: seconds(),
  }
  void answering.tell(() => answer(api.POST('/api/practice/frames', { body })))
}
const marking = computed(() => question.value?.topic === 'tell the marks')
const picture = computed(() => {
  const q = question.value
  if (!q) return ''
  const asked = new URLSearchParams({ seed: String(q.seed), topic: q.topic, second: String(second.value) })
  return `${API}/practice/frames/picture?${asked}`
})
function mark(x: number, y: number): void {
  if (debrief.value || !marking.value || second.value) return
  const there = told.value.find((t) => Math.hypot(t.x_px - x, t.y_px - y) < NEAR_PX)
  if (there?.kind === kind.value) told.value = told.value.filter((t) => t !== there)
  else if (there) there.kind = kind.value
  else told.value = [...told.value, { x_px: x, y_px: y, kind: kind.value }]
}
function touch(event: MouseEvent): void {
  const matrix = plate.value?.getScreenCTM()
  if (!matrix) return
  const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse())
  mark(at.x, at.y)
}
const WAYS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
}
function onKey(event: KeyboardEvent): void {
  const q = question.value
  const way = WAYS[event.key]
  const chosen = KINDS[Number(event.key) - 1]
  if (!q) return
  if (way) {
    const by = event.shiftKey ? 5 : STEP_PX
    aim.value = {
      x: Math.min(q.width_px, Math.max(0, aim.value.x + by * way[0])),
      y: Math.min(q.height_px, Math.max(0, aim.value.y + by * way[1])),
    }
  } else if (chosen) kind.value = chosen.kind
  else if (event.key === 'm') second.value = !second.value
  else if (event.key === 'Enter' || event.key === ' ') mark(aim.value.x, aim.value.y)
  else return
  event.preventDefault()
}
const facts = computed(() => {
  const q = question.value
  return q ? `f/${q.f_number}, ISO ${q.iso}, ${exposure(q.exposure_s)}` : ''
})
const verdict = computed(() => {
  const d = debrief.value
  if (!d) return ''
  if (d.right) return 'Right.'
  if (d.unsafe) return marking.value ? 'Dust was taken for something harmless.' : 'That frame is not fit.'
  return 'Not quite.'
})
</script>

<template>
  <ExercisePage
    title="Read the frame"
    :error="asking.error.value || answering.error.value"
    :verdict="verdict"
    :good="debrief?.right"
    :bad="debrief?.unsafe"
    :again="{ name: 'practice-frames', query: { seed: question?.seed, topic: question?.topic } }"
    :again-words="`Frame ${question?.seed}`"
    @another="another"
  >
    <template v-if="question">
      <p v-if="marking">
        Touch every mark and say what it is; touch it again to take it back. The second frame was shot after
        the camera was moved.
      </p>
      <p v-else>{{ facts }}. Is the frame fit to judge the sensor by? If not, what first?</p>
      <div v-if="marking" class="tools">
        <SelectButton
          v-model="kind"
          :options="KINDS"
          option-label="words"
          option-value="kind"
          :allow-empty="false"
          aria-label="What the next mark is"
        />
        <Button
          :label="second ? 'Back to the first frame' : 'Second frame'"
          severity="secondary"
          variant="outlined"
          @click="second = !second"
        />
      </div>
      <svg
        ref="plate"
        :viewBox="`0 0 ${question.width_px} ${question.height_px}`"
        :role="marking ? 'application' : 'img'"
        :tabindex="marking ? 0 : undefined"
        :aria-label="
          marking
            ? `The ${second ? 'second' : 'first'} frame: arrow keys aim, digits say what it is, Enter marks, m shows the other frame`
            : `The frame as it was shot: ${facts}`
        "
        @click="touch"
        @keydown="onKey"
      >
        <text v-if="shown !== picture" :x="question.width_px / 2" :y="question.height_px / 2" font-size="32">
          The frame is being shot…
        </text>
        <image
          :href="picture"
          :width="question.width_px"
          :height="question.height_px"
          @load="shown = picture"
        />
        <template v-if="marking && !second">
          <path class="aim" :d="`M ${aim.x - 18} ${aim.y} h 36 M ${aim.x} ${aim.y - 18} v 36`" />
          <g v-for="(t, i) in told" :key="i" class="told">
            <circle :cx="t.x_px" :cy="t.y_px" r="22" />
            <text :x="t.x_px" :y="t.y_px - 30" font-size="24">{{ MARK_WORDS[t.kind] }}</text>
          </g>
          <g
            v-for="(m, i) in debrief?.marks"
            :key="`t${i}`"
            class="truth"
            :class="{ wrong: m.told !== m.kind }"
          >
            <rect :x="m.x_px - 30" :y="m.y_px - 30" width="60" height="60" />
            <text :x="m.x_px" :y="m.y_px + 58" font-size="24">{{ m.words }}</text>
          </g>
        </template>
      </svg>
      <p v-if="marking && !debrief">
        <Button
          :label="`Done: ${told.length} named`"
          icon="pi pi-check"
          :disabled="answering.busy.value"
          @click="say()"
        />
      </p>
      <div v-else class="tools">
        <Button
          v-for="c in question.choices"
          :key="c.code"
          :label="c.words"
          :severity="debrief?.remedy === c.code ? undefined : 'secondary'"
          :variant="debrief?.remedy === c.code ? undefined : 'outlined'"
          :disabled="answering.busy.value || (debrief !== null && debrief.remedy !== c.code)"
          @click="say(c.code)"
        />
      </div>
    </template>
    <template v-if="debrief" #told>
      <ul>
        <li v-for="(line, i) in debrief.lines" :key="i">{{ line }}</li>
      </ul>
      <p v-if="marking" class="soft">○ what you told, □ what is there; thick where they differ.</p>
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
.tools :deep(.p-selectbutton) {
  flex-wrap: wrap;
}
svg {
  width: min(100%, calc(60vh * 3 / 2));
  margin: 0 auto;
  touch-action: manipulation;
  background: var(--surround);
}
svg[tabindex] {
  cursor: crosshair;
}
circle,
rect,
.aim {
  fill: none;
  stroke: var(--mark-light);
  stroke-width: 3;
}
.aim {
  stroke-width: 1.5;
}
.wrong rect {
  stroke-width: 7;
}
text {
  fill: var(--mark-light);
  paint-order: stroke;
  stroke: var(--mark-dark);
  stroke-width: 5;
  text-anchor: middle;
}
</style>
