<script setup lang="ts">
import Column from 'primevue/column'
import DataTable from 'primevue/datatable'
import Message from 'primevue/message'
import ChoiceBar from '@/shared/components/ChoiceBar.vue'
import Slider from 'primevue/slider'
import { computed, nextTick, onMounted, onScopeDispose, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { queries } from '@/api/queries'
import BackLink from '@/shared/components/BackLink.vue'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useAsk } from '@/shared/composables/useAsk'
import { FATE_WORDS, countsWords, removedPercent } from '@/shared/lib/outcomes'
import ComparePane from './ComparePane.vue'
import { seenIn, shownAs } from './lay'
import { laidWords, witnessWords } from './words'
import { KIND_WORDS } from '@/shared/lib/spots'
import type { Kind } from '@/api/client'

type Mode = 'wipe' | 'blink' | 'side'
const TILE_PX = 512
const props = defineProps<{ before: number; after: number; works: number }>()
const router = useRouter()
const { value: laid, error: notLaid } = useAsk(() => queries.laid(props.before, props.after, props.works))
const { value: detail, error: away } = useAsk(() => queries.frame(props.after))
const tilePx = computed(() => detail.value?.tile_px ?? TILE_PX)
const error = computed(() => notLaid.value || away.value)
const mode = ref<Mode>('wipe')
const modes = [
  { label: 'Wipe', value: 'wipe' },
  { label: 'Blink', value: 'blink' },
  { label: 'Side by side', value: 'side' },
]
const edge = ref(50)
const later = ref(true)
const gain = ref(2)
const by = ref<'zone' | 'kind' | 'size'>('zone')
const bys = [
  { label: 'By place', value: 'zone' },
  { label: 'By kind', value: 'kind' },
  { label: 'By size', value: 'size' },
]
const one = ref<InstanceType<typeof ComparePane> | null>(null)
const two = ref<InstanceType<typeof ComparePane> | null>(null)
/** The pane last touched leads, the other only follows: else each would answer the other's moves. */
const leader = ref<'a' | 'b'>('b')
const SETTLE_MS = 150
/** Who wants no motion changes over by the space bar. */
const still = window.matchMedia('(prefers-reduced-motion: reduce)').matches
let blinking: ReturnType<typeof setInterval> | null = null

const comparison = computed(() => laid.value?.comparison ?? null)
const marks = computed(() => {
  const l = laid.value
  if (!l) return { before: [], after: [] }
  const old = new Map(l.before.spots.map((s) => [s.id, s]))
  const fresh = new Map(l.after.spots.map((s) => [s.id, s]))
  return {
    before: l.comparison.spots.flatMap((c) => {
      const spot = c.before ? old.get(c.before) : undefined
      return spot ? [{ spot, status: c.status }] : []
    }),
    after: l.comparison.spots.flatMap((c) => {
      const spot = c.after ? fresh.get(c.after) : undefined
      return spot ? [{ spot, status: c.status }] : []
    }),
  }
})
const STATUSES = ['gone', 'stayed', 'fainter', 'moved', 'new', 'unseen'] as const
/** The usual four, and the rare ones where there are any. */
const shown = computed(() =>
  STATUSES.filter((s) => (s !== 'fainter' && s !== 'unseen') || (comparison.value?.summary[s] ?? 0) > 0),
)
const table = computed(() =>
  Object.entries(laid.value?.[`by_${by.value}`] ?? {}).map(([name, row]) => ({ name, row })),
)
const doubtful = computed(
  () => comparison.value?.spots.filter((s) => s.status === 'new' && s.may_be).length ?? 0,
)
const witness = computed(() => (comparison.value ? witnessWords(comparison.value) : ''))
const howLaid = computed(() => (comparison.value ? laidWords(comparison.value.alignment) : ''))
const clip = computed(() =>
  mode.value === 'wipe'
    ? { clipPath: `inset(0 0 0 ${edge.value}%)` }
    : mode.value === 'blink'
      ? { visibility: (later.value ? 'visible' : 'hidden') as 'visible' | 'hidden' }
      : {},
)

watch([() => laid.value && detail.value, one, two], () => void nextTick(link), { immediate: true })

/** Both panes look at the same part of the sensor, exit pupil allowed for. */
function link(): void {
  const a = one.value
  const b = two.value
  const fit = comparison.value?.alignment
  if (!a || !b || !fit) return
  const [before, after] = [laid.value?.before.frames[0], laid.value?.after.frames[0]]
  if (!before || !after) return
  const follow = (from: 'a' | 'b') => () => {
    if (leader.value !== from) return
    const [source, target] = from === 'a' ? [a, b] : [b, a]
    const seen = source.place()
    if (seen) target.lookAs(seenIn(seen, before, after, fit, from === 'b'))
  }
  a.onMove(follow('a'))
  b.onMove(follow('b'))
}

watch(mode, (now) => {
  if (blinking) clearInterval(blinking)
  blinking =
    now === 'blink' && !still
      ? setInterval(() => {
          later.value = !later.value
        }, 700)
      : null
  if (now !== 'blink') later.value = true
  setTimeout(whole, SETTLE_MS)
})

/** Where one came from; the later frame where one came from nowhere. */
function leave(): void {
  if (window.history.state?.back) router.back()
  else void router.push({ name: 'frame', params: { id: props.after } })
}

/** Both panes show the whole frame; keys always speak to the later one. */
function whole(): void {
  leader.value = 'b'
  two.value?.home()
}

function zoom(factor: number): void {
  leader.value = 'b'
  two.value?.zoomBy(factor)
}

function onKey(event: KeyboardEvent): void {
  if ((event.target as HTMLElement).closest('input, textarea')) return
  const act: Record<string, () => void> = {
    w: () => {
      mode.value = 'wipe'
    },
    b: () => {
      mode.value = 'blink'
    },
    s: () => {
      mode.value = 'side'
    },
    ' ': () => {
      if (mode.value === 'blink') {
        if (blinking) clearInterval(blinking)
        blinking = null
        later.value = !later.value
      }
    },
    '[': () => {
      edge.value = Math.max(0, edge.value - 5)
    },
    ']': () => {
      edge.value = Math.min(100, edge.value + 5)
    },
    '+': () => zoom(1.5),
    '-': () => zoom(1 / 1.5),
    '0': whole,
    Escape: leave,
  }
  const run = act[event.key]
  if (!run || event.ctrlKey || event.metaKey) return
  event.preventDefault()
  run()
}

onMounted(() => {
  window.addEventListener('keydown', onKey)
})
onScopeDispose(() => {
  window.removeEventListener('keydown', onKey)
  if (blinking) clearInterval(blinking)
})
</script>

<template>
  <div v-if="laid && comparison && detail" class="view">
    <section class="stage" aria-label="Two frames laid on each other">
      <div class="bar">
        <ChoiceBar v-model="mode" :options="modes" label="How they are shown" />
        <label v-if="mode === 'wipe'" class="edge"
          ><span id="edge-label">Edge</span
          ><Slider v-model="edge" :min="0" :max="100" aria-labelledby="edge-label"
        /></label>
        <span v-if="mode === 'blink'" class="soft"
          >showing: {{ later ? 'after' : 'before' }}<template v-if="still">; Space switches</template></span
        >
        <span class="soft keys">Keys: W wipe, B blink, S side by side, [ ] edge, + − 0 zoom, Esc back</span>
      </div>
      <div class="panes" :class="mode">
        <div class="half" @pointerdown.capture="leader = 'a'" @wheel.capture.passive="leader = 'a'">
          <ComparePane
            v-if="laid.before.frames[0]"
            ref="one"
            :frame-id="before"
            :facts="laid.before.frames[0]"
            :tile-px="tilePx"
            :spots="marks.before"
            tone="relief"
            :gain="gain"
            label="Before"
          />
        </div>
        <div
          class="half top"
          :style="clip"
          @pointerdown.capture="leader = 'b'"
          @wheel.capture.passive="leader = 'b'"
        >
          <ComparePane
            v-if="laid.after.frames[0]"
            ref="two"
            :frame-id="after"
            :facts="laid.after.frames[0]"
            :shown-as="
              shownAs(
                laid.before.frames[0] ?? laid.after.frames[0],
                laid.after.frames[0],
                comparison.alignment,
              )
            "
            :tile-px="tilePx"
            :spots="marks.after"
            tone="relief"
            :gain="gain"
            label="After"
            :right="mode === 'wipe'"
          />
        </div>
        <div v-if="mode === 'wipe'" class="line" :style="{ left: `${edge}%` }" />
      </div>
    </section>
    <aside aria-label="What changed">
      <BackLink :home="{ name: 'frame', params: { id: after } }" home-words="the frame" />
      <h1>
        {{
          comparison.comparable
            ? `${countsWords(comparison.summary)}.`
            : 'These two frames cannot be compared.'
        }}
      </h1>
      <Message v-for="why in comparison.why_not" :key="why" severity="warn" :closable="false">{{
        why
      }}</Message>
      <dl v-if="comparison.comparable">
        <div
          v-for="row in (
            [
              ['gone', 'Removed', comparison.summary.gone],
              ['stayed', 'Stayed', comparison.summary.stayed],
              ['fainter', 'Fainter', comparison.summary.fainter],
              ['moved', 'Moved', comparison.summary.moved],
              ['new', 'New', comparison.summary.new],
              ['unseen', 'Not told', comparison.summary.unseen],
            ] as const
          ).filter((r) => r[0] !== 'fainter' || r[2])"
          :key="row[0]"
          :class="row[0]"
        >
          <dt>
            <svg width="26" height="18" viewBox="0 0 26 18" aria-hidden="true">
              <circle cx="13" cy="9" r="7" />
              <path v-if="row[0] === 'gone'" d="M6 9h14" />
              <path v-if="row[0] === 'new'" d="M6 9h14M13 2v14" /></svg
            >{{ row[1] }}
          </dt>
          <dd>{{ row[2] }}</dd>
        </div>
      </dl>
      <p v-if="comparison.comparable && removedPercent(comparison.summary) !== null" class="share">
        <strong>{{ removedPercent(comparison.summary) }} %</strong> removed
      </p>
      <p v-if="doubtful" class="soft">
        Of what is new, {{ doubtful }} may have moved: alike in size and near, but not sure enough to say so.
      </p>
      <ChoiceBar v-if="comparison.comparable" v-model="by" :options="bys" label="Table" />
      <DataTable v-if="comparison.comparable" :value="table" data-key="name" size="small">
        <Column :header="by === 'zone' ? 'Place' : by === 'kind' ? 'Kind' : 'Equivalent diameter'">
          <template #body="{ data }">{{
            by === 'kind' ? KIND_WORDS[data.name as Kind] : data.name
          }}</template>
        </Column>
        <Column v-for="status in shown" :key="status" :header="FATE_WORDS[status]">
          <template #body="{ data }">{{ data.row[status] ?? 0 }}</template>
        </Column>
      </DataTable>
      <p class="soft">{{ witness }}</p>
      <p v-if="comparison.comparable" class="soft">{{ howLaid }}</p>
    </aside>
  </div>
  <div v-else class="wait" role="status">
    <FailureNote :error="error" />
    <p v-if="!error">Laying the frames on each other</p>
  </div>
</template>

<style scoped>
.view {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 340px;
  height: 100%;
}
.stage {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
  min-height: 0;
}
.bar {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2) var(--space-3);
  align-items: center;
  padding: var(--space-2) var(--space-3);
  background: var(--panel);
  border-bottom: 1px solid var(--line);
}
.edge {
  display: grid;
  grid-template-columns: auto 170px;
  gap: var(--space-3);
  align-items: center;
}
.keys {
  margin-left: auto;
  font-size: var(--text-small);
}
.panes {
  position: relative;
  background: var(--surround);
}
.half {
  position: absolute;
  inset: 0;
}
.side .half {
  width: 50%;
}
.side .half.top {
  left: 50%;
  border-left: 2px solid var(--mark-dark);
}
.line {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 2px;
  background: var(--mark-dark);
  box-shadow: 0 0 0 1px var(--mark-light);
  pointer-events: none;
}
aside {
  display: flex;
  flex-direction: column;
  gap: var(--space-3);
  padding: var(--space-3) var(--space-3);
  overflow: auto;
  background: var(--panel);
  border-left: 1px solid var(--line);
}
h1 {
  font-size: var(--text-title);
}
dl {
  display: grid;
  gap: var(--space-1);
  margin: 0;
}
dl div {
  display: flex;
  justify-content: space-between;
  font-size: var(--text-lead);
}
dt {
  display: flex;
  gap: var(--space-2);
  align-items: center;
}
dd {
  margin: 0;
  font-weight: 650;
}
dl svg {
  fill: none;
  stroke: currentcolor;
  stroke-width: 1.6;
}
.gone svg {
  stroke-dasharray: 4 2;
}
.fainter svg {
  stroke-dasharray: 7 2;
}
.moved svg {
  stroke-dasharray: 0.5 3.4;
  stroke-linecap: round;
  stroke-width: 2.4;
}
.new svg {
  stroke-width: 2.6;
}
.unseen svg {
  stroke-dasharray: 1.5 4;
}
.share {
  font-size: var(--text-lead);
}
.wait {
  max-width: 480px;
  margin: var(--space-6) auto;
  text-align: center;
}
@media (max-width: 900px) {
  .view {
    grid-template-columns: 1fr;
    grid-template-rows: 60vh auto;
    height: auto;
  }
}
</style>
