<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import type { TrailItem, Visit } from '@/api/client'
import { fStop } from '@/shared/lib/format'
import { amountWords } from '@/shared/lib/kit'
import { STEP_WORDS, useWords } from '@/shared/lib/steps'
import { countsWords, resultWords } from '@/shared/lib/outcomes'
import ApertureEntry from '@/shared/components/ApertureEntry.vue'
import ChangeMap from './ChangeMap.vue'
import MiniMap from './MiniMap.vue'

const props = defineProps<{ visit: Visit; shown: number | null }>()
const emit = defineEmits<{
  show: [frameId: number]
  remove: [entryId: number]
  accept: [entryId: number]
  correct: [item: TrailItem]
  measure: [frameId: number]
  camera: []
  measuring: []
}>()
type StockUse = NonNullable<TrailItem['step']>['took'][number]

function tookWords(t: StockUse): string {
  return t.unit === 'piece' || !t.unit
    ? `${t.amount} × ${t.thing}`
    : `${amountWords(t.amount, t.unit)} of ${t.thing}`
}

const strip = ref<HTMLElement | null>(null)
const shooting = computed(() => props.visit.jobs.some((j) => j.kind === 'shoot'))
const number = computed(() => {
  const found = new Map<number, number>()
  for (const item of props.visit.trail) if (item.frame) found.set(item.id, found.size + 1)
  return found
})

function words(item: TrailItem): string {
  const frame = item.frame
  if (!frame) return ''
  if (!frame.ready) return frame.trouble ? 'not measured' : 'measuring'
  if (frame.fit === false) return 'not fit'
  if (frame.relevant === null) return 'no aperture'
  return `${frame.relevant || 'none'} visible`
}

watch(
  () => props.visit.trail.length,
  async () => {
    await nextTick()
    strip.value?.scrollTo({ left: strip.value.scrollWidth })
  },
  { immediate: true },
)
</script>

<template>
  <ol ref="strip" class="trail" aria-label="Trail of this visit">
    <li v-for="item in visit.trail" :key="item.id" :class="item.frame ? 'frame' : 'step'">
      <template v-if="item.frame">
        <button
          class="card"
          :aria-pressed="item.frame.frame_id === shown"
          :disabled="!item.frame.ready"
          @click="emit('show', item.frame.frame_id)"
        >
          <MiniMap :frame="item.frame" />
          <span class="hidden-label">Frame {{ number.get(item.id) }}:</span>
          <span class="under"
            ><strong>{{ words(item) }}</strong
            ><span class="soft">{{ fStop(item.frame.f_number) }}</span></span
          >
        </button>
        <button
          v-if="visit.state === 'open' && !item.frame.trouble && !item.frame.doubts.length"
          class="take works"
          :aria-label="`Remove frame ${number.get(item.id)} from this visit`"
          @click="emit('remove', item.id)"
        >
          <i class="pi pi-times" aria-hidden="true" />
        </button>
        <div v-if="item.frame.ready && item.frame.relevant === null && visit.state === 'open'" class="doubt">
          <p>What is visible cannot be worked out: no aperture recorded.</p>
          <ApertureEntry :frame-id="item.frame.frame_id" @measuring="emit('measuring')" />
        </div>
        <div v-if="item.frame.trouble" class="doubt" role="alert">
          <p>{{ item.frame.trouble }}</p>
          <button class="link works" @click="emit('measure', item.frame.frame_id)">Try again</button>
          <button class="link works" @click="emit('remove', item.id)">Remove</button>
        </div>
        <div v-if="item.frame.doubts.length" class="doubt" role="alert">
          <p>{{ item.frame.doubts[0] }}</p>
          <button class="link works" @click="emit('accept', item.id)">It is this camera</button>
          <button class="link works" @click="emit('remove', item.id)">Remove</button>
          <button class="link works" @click="emit('camera')">Edit the camera</button>
        </div>
      </template>
      <ChangeMap v-if="item.step?.places.length" :places="item.step.places" />
      <div v-if="item.step" class="done">
        <strong class="result" :class="item.step.result ?? 'open'"
          >{{ STEP_WORDS[item.step.step] }} {{ resultWords(item.step) }}</strong
        >
        <span v-if="item.step.counts" class="figures">{{ countsWords(item.step.counts) }}</span>
        <span v-if="useWords(item.step.use)" class="soft">{{ useWords(item.step.use) }}</span>
        <span v-if="item.step.took.length" class="soft"
          >took {{ item.step.took.map(tookWords).join(', ') }}</span
        >
        <span v-if="item.step.who" class="soft">by {{ item.step.who }}</span>
        <span v-if="item.step.against" class="soft">against advice: {{ item.step.against }}</span>
        <span v-if="visit.state === 'open'">
          <button
            class="link works"
            :aria-label="`Remove ${STEP_WORDS[item.step.step]} from this visit`"
            @click="emit('remove', item.id)"
          >
            <i class="pi pi-times" aria-hidden="true" />
          </button>
          <button
            class="link works"
            :aria-label="`Edit what ${STEP_WORDS[item.step.step]} used`"
            @click="emit('correct', item)"
          >
            Edit
          </button>
        </span>
      </div>
    </li>
    <li v-if="shooting" class="frame pending" role="status">
      <i class="pi pi-camera" aria-hidden="true" /> shooting
    </li>
    <li v-if="!visit.trail.length && !shooting" class="frame pending">No frame yet</li>
  </ol>
</template>

<style scoped>
.trail {
  position: relative;
  display: flex;
  align-items: stretch;
  gap: 0;
  margin: 0;
  padding: var(--space-2) var(--space-3);
  overflow-x: auto;
  list-style: none;
  background: var(--panel);
  border-bottom: 1px solid var(--line);
}
li {
  display: flex;
  flex: none;
  align-items: center;
}
li + li::before {
  content: '';
  width: 18px;
  height: 2px;
  background: var(--ink-soft);
  flex: none;
}
.card {
  display: grid;
  gap: 0.15rem;
  padding: var(--space-1);
  font: inherit;
  color: var(--ink);
  background: var(--room);
  border: 2px solid transparent;
  border-radius: 5px;
  cursor: pointer;
}
.card[aria-pressed='true'] {
  border-color: var(--accent);
  background: var(--accent-wash);
}
.under {
  display: flex;
  justify-content: space-between;
  gap: var(--space-2);
  font-size: var(--text-small);
}
.done {
  display: grid;
  align-content: center;
  max-width: 240px;
  padding: var(--space-1) var(--space-2);
  font-size: var(--text-small);
  line-height: 1.25;
  border-left: 3px solid var(--ink-soft);
  background: var(--room);
  border-radius: 4px;
  min-height: 60px;
}
.take {
  align-self: start;
  min-width: 24px;
  min-height: 24px;
  padding: 0;
  color: var(--ink-soft);
  background: none;
  border: 0;
  cursor: pointer;
}
.take:hover {
  color: var(--ink);
}
.result.fewer,
.result.cleared {
  color: var(--good);
}
.result.worse,
.result.streaks,
.result.stirred {
  color: var(--stop);
}
.result.open {
  color: var(--warn);
  font-weight: 600;
}
.pending {
  align-self: center;
  padding: 0 var(--space-3);
  color: var(--ink-soft);
  gap: var(--space-2);
}
.doubt {
  max-width: 190px;
  padding: var(--space-1) var(--space-2);
  font-size: var(--text-small);
  color: var(--warn);
  background: var(--warn-wash);
  border-radius: 4px;
}
.link {
  padding: 0 var(--space-1) 0 0;
  font: inherit;
  font-size: var(--text-small);
  color: var(--accent);
  text-decoration: underline;
  background: none;
  border: 0;
  cursor: pointer;
  text-align: left;
}
</style>
