<script setup lang="ts">
import ToggleSwitch from 'primevue/toggleswitch'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api, type Schemas } from '@/api/client'
import { TOP_AT } from '@/shared/lib/mount'
import ExercisePage from './ExercisePage.vue'
import { errorWords } from './practice'
import { useExercise } from './useExercise'

/** A spot in the picture; where is it, facing the mount of a camera that lies some way? */
const props = defineProps<{ seed: number | null; level: number | null }>()
type Question = Schemas['PlaceQuestion']
type Debrief = Schemas['PlaceDebrief']
const STEP_MM = 1
const router = useRouter()
const loupe = ref(false)
const aim = ref<[number, number]>([0, 0])
const given = ref<[number, number] | null>(null)
const sensor = ref<SVGSVGElement | null>(null)
const { question, debrief, asking, answering, seconds } = useExercise<Question, Debrief>(() => {
  given.value = null
  aim.value = [0, 0]
})
function draw(seed: number | null, level: number | null): void {
  const query = {
    loupe: loupe.value,
    ...(seed === null ? {} : { seed }),
    ...(level === null ? {} : { level }),
  }
  void asking.tell(() => answer(api.GET('/api/practice/places', { params: { query } })) as Promise<Question>)
}
watch(
  () => [props.seed, props.level] as const,
  ([seed, level]) => {
    draw(seed, level)
  },
  { immediate: true },
)
watch(loupe, () => {
  const now = question.value
  if (now && !debrief.value) draw(now.seed, now.level)
})
function another(): void {
  if (props.seed === null) draw(null, null)
  else void router.replace({ name: 'practice-places' })
}
function say(at: [number, number]): void {
  const now = question.value
  if (!now || debrief.value) return
  given.value = at
  const body = {
    seed: now.seed,
    level: now.level,
    x_mm: at[0],
    y_mm: at[1],
    seconds: seconds(),
  }
  void answering.tell(() => answer(api.POST('/api/practice/places', { body })))
}
const half = computed(
  () => (question.value ? question.value.view_mm.map((s) => s / 2) : [18, 12]) as [number, number],
)
const pad = computed(() => Math.max(...half.value) * 0.22)
const box = computed(() => {
  const [w, h] = half.value
  return `${-w - pad.value} ${-h - pad.value} ${2 * (w + pad.value)} ${2 * (h + pad.value)}`
})
function within([x, y]: [number, number]): [number, number] {
  const [w, h] = half.value
  return [Math.min(w, Math.max(-w, x)), Math.min(h, Math.max(-h, y))]
}
function touch(event: MouseEvent): void {
  const matrix = sensor.value?.getScreenCTM()
  if (!matrix) return
  const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse())
  say(within([at.x, at.y]))
}
const WAYS: Record<string, [number, number]> = {
  ArrowLeft: [-STEP_MM, 0],
  ArrowRight: [STEP_MM, 0],
  ArrowUp: [0, -STEP_MM],
  ArrowDown: [0, STEP_MM],
}
function onKey(event: KeyboardEvent): void {
  const way = WAYS[event.key]
  if (way) aim.value = within([aim.value[0] + way[0], aim.value[1] + way[1]])
  else if (event.key === 'Enter' || event.key === ' ') say(aim.value)
  else return
  event.preventDefault()
}
const top = computed(() => {
  const a = ((question.value ? TOP_AT[question.value.pose] : 0) * Math.PI) / 180
  const [w, h] = half.value
  return { x: Math.sin(a) * (w + pad.value * 0.6), y: -Math.cos(a) * (h + pad.value * 0.6) }
})
</script>

<template>
  <ExercisePage
    title="Find the place"
    :error="asking.error.value || answering.error.value"
    :verdict="debrief ? errorWords(debrief.error_mm, debrief.right) : ''"
    :good="debrief?.right"
    :again="{ name: 'practice-places', query: { seed: question?.seed, level: question?.level } }"
    :again-words="`Level ${question?.level}, number ${question?.seed}`"
    @another="another"
  >
    <div v-if="question" class="views">
      <figure>
        <figcaption>The picture, as it was taken</figcaption>
        <svg
          :viewBox="`0 0 ${question.sensor_mm[0]} ${question.sensor_mm[1]}`"
          role="img"
          :aria-label="`The picture: a spot ${Math.round(100 * question.spot[0])} % from the left, ${Math.round(100 * question.spot[1])} % from the top`"
        >
          <rect class="paper" :width="question.sensor_mm[0]" :height="question.sensor_mm[1]" />
          <circle
            class="spot"
            :cx="question.spot[0] * question.sensor_mm[0]"
            :cy="question.spot[1] * question.sensor_mm[1]"
            :r="question.sensor_mm[0] / 60"
          />
        </svg>
      </figure>
      <figure>
        <figcaption>{{ question.pose_words }} Touch where the spot lies.</figcaption>
        <svg
          ref="sensor"
          class="sensor"
          :viewBox="box"
          role="application"
          tabindex="0"
          aria-label="The sensor, facing the mount: arrow keys aim, Enter answers"
          @click="touch"
          @keydown="onKey"
        >
          <rect class="glass" :x="-half[0]" :y="-half[1]" :width="2 * half[0]" :height="2 * half[1]" />
          <text
            class="top"
            :x="top.x"
            :y="top.y"
            :font-size="pad * 0.42"
            text-anchor="middle"
            dominant-baseline="middle"
          >
            top
          </text>
          <circle
            v-for="(g, i) in question.glints"
            :key="i"
            class="glint"
            :cx="g.x_mm"
            :cy="g.y_mm"
            :r="half[0] / 70"
          />
          <path class="aim" :d="`M ${aim[0] - 1.4} ${aim[1]} h 2.8 M ${aim[0]} ${aim[1] - 1.4} v 2.8`" />
          <template v-if="debrief && given">
            <line
              class="off"
              :x1="given[0]"
              :y1="given[1]"
              :x2="debrief.truth.x_mm"
              :y2="debrief.truth.y_mm"
            />
            <circle class="given" :cx="given[0]" :cy="given[1]" r="1.1" />
            <circle class="truth" :cx="debrief.truth.x_mm" :cy="debrief.truth.y_mm" r="0.8" />
          </template>
        </svg>
      </figure>
      <label
        ><ToggleSwitch v-model="loupe" aria-label="Loupe light" :disabled="debrief !== null" /> Loupe light:
        stray glints beside the spot</label
      >
    </div>
    <template #told>
      <p class="soft">
        The picture is upside down on the sensor; facing the mount, top and bottom stay swapped, left and
        right do not. The view turns with the camera. ○ your answer, ● the spot.
      </p>
    </template>
  </ExercisePage>
</template>

<style scoped>
.views {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: var(--space-3);
}
.views > label {
  grid-column: 1 / -1;
}
figure {
  display: grid;
  gap: var(--space-1);
  align-content: start;
  margin: 0;
}
figcaption {
  min-height: 3em;
}
svg {
  width: 100%;
  max-height: 52vh;
}
.sensor {
  cursor: crosshair;
  touch-action: manipulation;
}
.paper {
  fill: var(--surround-bright);
}
.spot,
.truth {
  fill: var(--mark-dark);
}
.glass {
  fill: var(--glass);
  stroke: var(--ring-edge);
  stroke-width: 0.4;
}
.top {
  fill: var(--ink-soft);
}
.glint {
  fill: var(--mark-light);
}
.aim,
.given,
.off {
  fill: none;
  stroke: var(--mark-light);
  stroke-width: 0.3;
}
.off {
  stroke-dasharray: 1 0.8;
}
label {
  display: flex;
  gap: var(--space-2) var(--space-3);
  align-items: center;
}
@media (max-width: 640px) {
  .views {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
