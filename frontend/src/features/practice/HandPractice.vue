<script setup lang="ts">
import Button from 'primevue/button'
import Checkbox from 'primevue/checkbox'
import SelectButton from 'primevue/selectbutton'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api, type Schemas } from '@/api/client'
import { count } from '@/shared/lib/format'
import ExercisePage from './ExercisePage.vue'
import HandDebrief from './HandDebrief.vue'
import { FORCES, hold } from './practice'
import { useExercise } from './useExercise'
import { useHand } from './useHand'

/** A drawn sensor under a swab or a gel stick: led by finger, pen, mouse or arrow keys. */
const props = defineProps<{ seed: number | null; topic: string | null }>()
type Question = Schemas['HandQuestion']
type Debrief = Schemas['HandDebrief']
const AROUND_MM = 5
const STEP_MM = 2
const FINE_MM = 0.5
const TIP_MM = 2
const router = useRouter()
const hand = useHand()
const { strokes, drops, used, down } = hand
const force = ref<number>(FORCES[1].force_n)
const tip = ref({ x: 0, y: 0 })
const glass = ref<SVGSVGElement | null>(null)
const { question, debrief, asking, answering, seconds } = useExercise<Question, Debrief>(() => {
  hand.reset()
  tip.value = { x: 0, y: 0 }
})
function draw(seed: number | null, topic: string | null): void {
  const query = {
    ...(seed === null ? {} : { seed }),
    ...(topic === null ? {} : { topic: topic as Question['topic'] }),
  }
  void asking.tell(() => answer(api.GET('/api/practice/hand', { params: { query } })) as Promise<Question>)
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
  else void router.replace({ name: 'practice-hand' })
}
function finish(): void {
  const q = question.value
  if (!q || debrief.value) return
  hand.lift()
  const body = {
    seed: q.seed,
    topic: q.topic,
    work: { drops: drops.value, wait_s: hand.waited(), used: used.value, strokes: strokes.value },
    seconds: seconds(),
  }
  void answering.tell(() => answer(api.POST('/api/practice/hand', { body })))
}
const isPad = computed(() => question.value?.tool === 'lift')
const half = computed(() => (question.value?.sensor_mm ?? [36, 24]).map((s) => s / 2) as [number, number])
const box = computed(() => {
  const [w, h] = half.value.map((s) => s + AROUND_MM) as [number, number]
  return `${-w} ${-h} ${2 * w} ${2 * h}`
})
function at(event: PointerEvent): { x: number; y: number } | null {
  const matrix = glass.value?.getScreenCTM()
  return matrix ? new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse()) : null
}
function onDown(event: PointerEvent): void {
  const place = at(event)
  if (!place || debrief.value || event.button !== 0) return
  glass.value?.setPointerCapture(event.pointerId)
  tip.value = { x: place.x, y: place.y }
  const { force_n, tilt_deg } = hold(event, force.value)
  hand.setDown(place.x, place.y, force_n, tilt_deg)
}
function onMove(event: PointerEvent): void {
  const place = at(event)
  if (!place || debrief.value) return
  tip.value = { x: place.x, y: place.y }
  const { force_n, tilt_deg } = hold(event, force.value)
  hand.move(place.x, place.y, force_n, tilt_deg)
}
const WAYS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
}
function onKey(event: KeyboardEvent): void {
  const way = WAYS[event.key]
  if (debrief.value) return
  if (way) {
    const by = event.shiftKey ? FINE_MM : STEP_MM
    tip.value = { x: tip.value.x + by * way[0], y: tip.value.y + by * way[1] }
    hand.move(tip.value.x, tip.value.y, force.value, null)
  } else if (event.key === ' ') {
    if (event.repeat) return
    if (down.value) hand.lift()
    else hand.setDown(tip.value.x, tip.value.y, force.value, null)
  } else if (event.key === 't') hand.turn()
  else if (event.key === 'd' && question.value?.tool === 'wet_swab') hand.drop()
  else if (event.key === 'Enter') finish()
  else return
  event.preventDefault()
}
const trail = (samples: Schemas['HandSample'][]): string =>
  samples.map((s) => `${s.x_mm.toFixed(1)},${s.y_mm.toFixed(1)}`).join(' ')
const done = computed(() => {
  const made = count(
    strokes.value.length,
    isPad.value ? 'press' : 'stroke',
    isPad.value ? 'presses' : undefined,
  )
  const wet = question.value?.tool === 'wet_swab' ? `${count(drops.value, 'drop')}, ` : ''
  return `${wet}${made}, ${isPad.value ? 'pad' : 'face'} ${hand.face.value + 1}`
})
</script>

<template>
  <ExercisePage
    title="The hand"
    :error="asking.error.value || answering.error.value"
    :verdict="debrief ? (debrief.right ? 'A clean hand.' : 'Not yet a clean hand.') : ''"
    :good="debrief?.right"
    :bad="debrief?.unsafe"
    :again="{ name: 'practice-hand', query: { seed: question?.seed, topic: question?.topic } }"
    :again-words="`Sensor ${question?.seed}`"
    @another="another"
  >
    <template v-if="question">
      <p>{{ question.words }}</p>
      <div v-if="!debrief" class="tools">
        <Button
          v-if="question.tool === 'wet_swab'"
          label="Put a drop on"
          severity="secondary"
          @click="hand.drop"
        />
        <SelectButton
          v-model="force"
          :options="[...FORCES]"
          option-label="words"
          option-value="force_n"
          :allow-empty="false"
          aria-label="How hard it bears, where no pen tells"
        />
        <Button
          :label="isPad ? 'Clean the pad' : 'Turn the face, or a fresh swab'"
          severity="secondary"
          @click="hand.turn"
        />
        <label v-if="!isPad"><Checkbox v-model="used" binary /> the swab from last time</label>
      </div>
      <svg
        ref="glass"
        :viewBox="box"
        role="application"
        tabindex="0"
        aria-label="The sensor, facing the mount: arrow keys move the tool, Space sets it down and lifts it, t turns the face, d puts a drop on, Enter ends"
        @pointerdown="onDown"
        @pointermove="onMove"
        @pointerup="hand.lift"
        @pointercancel="hand.lift"
        @keydown="onKey"
      >
        <rect
          class="frame"
          :x="-half[0] - 2"
          :y="-half[1] - 2"
          :width="2 * half[0] + 4"
          :height="2 * half[1] + 4"
        />
        <rect class="glass" :x="-half[0]" :y="-half[1]" :width="2 * half[0]" :height="2 * half[1]" />
        <polyline
          v-for="(s, i) in isPad ? [] : strokes"
          :key="i"
          class="wiped"
          :points="trail(s.samples)"
          :stroke-width="question.width_mm"
        />
        <circle
          v-for="(s, i) in isPad ? strokes : []"
          :key="i"
          class="pressed"
          :cx="s.samples[0]?.x_mm"
          :cy="s.samples[0]?.y_mm"
          :r="question.width_mm / 2"
        />
        <template v-if="!debrief">
          <circle v-for="m in question.marks" :key="m.id" class="mark" :cx="m.x_mm" :cy="m.y_mm" r="0.35" />
          <circle
            v-if="isPad"
            class="tip"
            :class="{ down }"
            :cx="tip.x"
            :cy="tip.y"
            :r="question.width_mm / 2"
          />
          <rect
            v-else
            class="tip"
            :class="{ down }"
            :x="tip.x - TIP_MM / 2"
            :y="tip.y - question.width_mm / 2"
            :width="TIP_MM"
            :height="question.width_mm"
          />
        </template>
        <HandDebrief v-else :debrief="debrief" :marks="question.marks" :half="half" />
      </svg>
      <p v-if="!debrief" class="tools">
        <Button
          label="Done"
          icon="pi pi-check"
          :disabled="!strokes.length || answering.busy.value"
          @click="finish"
        />
        <span class="soft" role="status">{{ done }}</span>
      </p>
    </template>
    <template v-if="debrief" #told>
      <p>{{ debrief.lines.join(' ') }}</p>
      <ul>
        <li v-for="m in debrief.mistakes" :key="m">{{ m }}</li>
      </ul>
      <p class="soft">
        ○ came off, ● still there, ■ where it was dragged to, ✕ what the hand brought, hatched: left out. A
        model made to teach, not a measurement of any real swab.
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
label {
  display: inline-flex;
  gap: var(--space-2);
  align-items: center;
}
svg {
  width: 100%;
  max-height: 56vh;
  cursor: none;
  touch-action: none;
}
.frame {
  fill: var(--camera-edge);
}
.glass {
  fill: var(--glass);
}
.wiped {
  fill: none;
  stroke: var(--mark-light);
  stroke-opacity: 0.16;
  stroke-linejoin: round;
}
.pressed {
  fill: var(--mark-light);
  fill-opacity: 0.16;
}
.mark {
  fill: var(--mark-dark);
}
.tip {
  fill: var(--mark-light);
  fill-opacity: 0.35;
  stroke: var(--mark-light);
  stroke-width: 0.25;
  stroke-dasharray: 0.8 0.6;
}
.tip.down {
  fill-opacity: 0.6;
  stroke-dasharray: none;
}
</style>
