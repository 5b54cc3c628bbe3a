<script setup lang="ts">
import Button from 'primevue/button'
import Slider from 'primevue/slider'
import { computed, ref, watch } from 'vue'
import { RouterLink } from 'vue-router'
import type { Schemas } from '@/api/client'
import { queries } from '@/api/queries'
import { useAsk } from '@/shared/composables/useAsk'
import { count, day } from '@/shared/lib/format'
import { FATE_WORDS, countsWords, type Fate } from '@/shared/lib/outcomes'
import { uprightTurn } from '@/shared/lib/geometry'
import { useSpotWalk } from '@/shared/composables/useSpotWalk'
import { KIND_WORDS } from '@/shared/lib/spots'
import { lifeWords, livesByMark, markKey } from './lives'

/**
 * All frames of a camera, one after the other: what stayed, went, moved and came since the one before;
 * a chosen spot is followed through all of them.
 */
const props = defineProps<{
  bodyId: number
  points: Schemas['CountPoint'][]
  steps: Schemas['StepMark'][]
  worksAt: number
}>()
const at = ref(Math.max(0, props.points.length - 1))
watch(
  () => props.points.length,
  (n) => {
    at.value = Math.max(0, n - 1)
  },
)
const here = computed(() => props.points[at.value] ?? null)
const before = computed(() => props.points[at.value - 1] ?? null)
const { value: frame } = useAsk(() => (here.value ? queries.frame(here.value.frame_id) : null), {
  keeps: true,
})
const { value: laid, error } = useAsk(
  () =>
    here.value && before.value
      ? queries.laid(before.value.frame_id, here.value.frame_id, props.worksAt)
      : null,
  { keeps: true },
)
const facts = computed(() => frame.value?.map?.frames[0] ?? null)
const turn = computed(() => uprightTurn(facts.value?.orientation ?? 1).degrees)
const box = computed(() => {
  const [w, h] = [facts.value?.width_px ?? 3, facts.value?.height_px ?? 2]
  const [wide, high] = turn.value % 180 ? [h, w] : [w, h]
  return `${-wide / 2} ${-high / 2} ${wide} ${high}`
})
const unit = computed(() => Math.max(facts.value?.width_px ?? 600, facts.value?.height_px ?? 400) / 120)
const { value: lives } = useAsk(() => queries.bodyLives(props.bodyId))
const lifeOf = computed(() => livesByMark(lives.value ?? []))
const kinds = computed(() => new Map((frame.value?.map?.spots ?? []).map((s) => [s.id, KIND_WORDS[s.kind]])))

/** Marks with their fate since the frame before; all of them are "stayed" on the first frame. */
const marks = computed(() => {
  const now = here.value
  if (!now) return []
  const found = before.value ? laid.value?.comparison : null
  const spots = found?.comparable
    ? found.spots
    : (frame.value?.map?.spots ?? [])
        .filter((s) => s.site === 'sensor' || s.site === 'unsure')
        .map((s) => ({ ...s, before: null, after: s.id, status: 'stayed' as Fate }))
  return spots.map((s) => {
    const id = s.after ? markKey(now.frame_id, s.after) : markKey(before.value?.frame_id ?? 0, s.before)
    return {
      id,
      life: lifeOf.value.get(id) ?? null,
      kind: kinds.value.get(s.after ?? '') ?? 'Spot',
      x: s.x_px,
      y: s.y_px,
      fate: s.status,
    }
  })
})
const followed = ref<Schemas['SpotHistory'] | null>(null)
const chosen = computed({
  get: () => marks.value.find((m) => m.life !== null && m.life === followed.value)?.id ?? null,
  set: (id) => {
    followed.value = marks.value.find((m) => m.id === id)?.life ?? null
  },
})
watch(lives, () => {
  followed.value = null
})
/** Where the marks lie on the screen, the picture upright. */
const onScreen = computed(() => {
  const angle = (turn.value * Math.PI) / 180
  const [c, s] = [Math.cos(angle), Math.sin(angle)]
  return marks.value.map((m) => ({ id: m.id, x: c * m.x - s * m.y, y: s * m.x + c * m.y }))
})
const drawing = ref<SVGElement | null>(null)
const { reached, walk } = useSpotWalk(drawing, () => onScreen.value, chosen)
const events = computed(() => (followed.value ? lifeWords(followed.value, props.points, props.steps) : []))
const words = computed(() => {
  if (!before.value) return 'The first frame.'
  const found = laid.value?.comparison
  if (!found) return error.value
  return found.comparable ? `${countsWords(found.summary)}.` : (found.why_not[0] ?? 'It cannot be compared.')
})
</script>

<template>
  <div v-if="here" class="frames">
    <svg
      ref="drawing"
      :viewBox="box"
      role="group"
      :aria-label="`Frame of ${day(here.at)}: ${words} Arrow keys lead from spot to spot`"
    >
      <g
        v-if="facts"
        :transform="`rotate(${turn}) translate(${-facts.width_px / 2} ${-facts.height_px / 2})`"
      >
        <rect :width="facts.width_px" :height="facts.height_px" />
        <g
          v-for="m in marks"
          :key="m.id"
          :class="[m.fate, { chosen: m.id === chosen }]"
          :transform="`translate(${m.x} ${m.y})`"
          :stroke-width="unit * 0.5"
          role="button"
          :tabindex="m.id === reached ? 0 : -1"
          :data-spot="m.id"
          :aria-label="`${m.kind}, ${FATE_WORDS[m.fate]}`"
          :aria-pressed="m.id === chosen"
          @click="chosen = m.id"
          @focus="chosen = m.id"
          @keydown="walk($event, m.id)"
        >
          <circle class="reach" :r="unit * 2.4" />
          <circle v-if="m.id === chosen" class="ring" :r="unit * 2.4" />
          <circle :r="unit * (m.fate === 'stayed' ? 0.9 : 1.3)" />
          <path
            v-if="m.fate === 'new'"
            :d="`M ${-2 * unit} 0 H ${2 * unit} M 0 ${-2 * unit} V ${2 * unit}`"
          />
          <path
            v-if="m.fate === 'gone'"
            :d="`M ${-1.6 * unit} ${1.6 * unit} L ${1.6 * unit} ${-1.6 * unit}`"
          />
          <path
            v-if="m.fate === 'moved'"
            :d="`M 0 0 H ${2.6 * unit} l ${-unit} ${-unit} m ${unit} ${unit} l ${-unit} ${unit}`"
          />
        </g>
      </g>
    </svg>
    <div class="beside">
      <slot />
      <Slider
        v-if="points.length > 1"
        v-model="at"
        :min="0"
        :max="points.length - 1"
        :step="1"
        aria-label="Frame"
        :pt="{ handle: { 'aria-valuetext': day(here.at) } }"
      />
      <p>
        <strong>{{ day(here.at) }}</strong>, frame {{ at + 1 }} of {{ points.length }}:
        {{ here.visible }} visible of {{ count(here.total, 'spot') }}. {{ words }}
      </p>
      <p class="soft">● stayed ⊘ removed ⊕ new → moved</p>
      <div class="life" aria-live="polite">
        <template v-if="followed">
          <p v-if="!chosen" class="soft">The spot you follow is not in this frame.</p>
          <ol>
            <li v-for="e in events" :key="e.index">
              <Button
                :label="e.words"
                variant="link"
                size="small"
                :aria-current="e.index === at ? 'step' : undefined"
                @click="at = e.index"
              />
            </li>
          </ol>
        </template>
        <p v-else class="soft">Choose a spot to follow it.</p>
      </div>
      <p>
        <RouterLink :to="{ name: 'frame', params: { id: here.frame_id } }">Open the frame</RouterLink>
        <RouterLink :to="{ name: 'visit', params: { id: here.visit_id } }">Its visit</RouterLink>
      </p>
    </div>
  </div>
</template>

<style scoped>
.frames {
  display: grid;
  grid-template-columns: minmax(0, 6fr) minmax(0, 5fr);
  gap: var(--space-4);
}
.beside {
  display: grid;
  gap: var(--space-2);
  align-content: start;
  padding-top: var(--space-2);
}
.beside p a + a {
  margin-left: var(--space-3);
}
rect {
  fill: var(--ring);
}
g[role='button'] {
  cursor: pointer;
  outline: none;
}
circle.reach,
g .reach {
  fill: transparent !important;
  stroke: none !important;
}
g .ring {
  fill: none !important;
  stroke: var(--accent);
}
.life ol {
  margin: 0;
  padding-left: 1.2em;
}
g.stayed circle {
  fill: var(--mark-dark);
}
g.gone,
g.new,
g.moved {
  fill: none;
  stroke: var(--mark-dark);
}
g.new {
  stroke: var(--mark-new);
}
g.gone {
  stroke: var(--mark-light);
}
@media (max-width: 760px) {
  .frames {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
