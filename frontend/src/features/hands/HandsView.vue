<script setup lang="ts">
import Message from 'primevue/message'
import Select from 'primevue/select'
import { computed, onMounted, onScopeDispose, ref, toRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import type { Decision, GuideLength, Pose, Step } from '@/api/client'
import { queries } from '@/api/queries'
import { useAsk } from '@/shared/composables/useAsk'
import MountMap from '@/shared/components/MountMap.vue'
import SceneDrawing from '@/shared/drawings/SceneDrawing.vue'
import StockQuestion from '@/features/visit/StockQuestion.vue'
import { ALARM_WORDS, useHands, usualLength } from './useHands'
import { useLitScreen } from '@/shared/composables/useLitScreen'
import { useVisit } from '@/features/visit/useVisit'
import { count as countWords } from '@/shared/lib/format'
import { isMeant, usedIn } from './hands'
import { POSE_WORDS } from '@/shared/lib/mount'
import { clock, STEP_WORDS } from '@/shared/lib/steps'

const props = defineProps<{ id: number; step: Decision }>()
const router = useRouter()
/** On a narrow screen, what is seldom wanted stands behind a button. */
const more = ref(false)
const length = ref<GuideLength | undefined>(usualLength())
const pose = ref<Pose>(props.step === 'air' ? 'overhead' : 'top_away')
const poses = (Object.keys(POSE_WORDS) as Pose[]).map((value) => ({ label: POSE_WORDS[value], value }))
const {
  addStep,
  busy,
  asked: stockAsked,
  error: logError,
  visit,
} = useVisit(toRef(props, 'id'), (version) => hands.heard(version))
/** The instructions are those of the visit as it was opened: none changes under the hands. */
const opened = ref<number | null>(null)
watch(visit, (now) => (opened.value ??= now?.version ?? null), { immediate: true })
const { value: guide, error: away } = useAsk(
  () =>
    opened.value === null
      ? null
      : queries.guide(props.id, props.step, pose.value, opened.value, length.value),
  { keeps: true },
)
const failed = computed(() => {
  if (guide.value)
    return guide.value.instructions.length
      ? ''
      : guide.value.stop || 'This step has no instructions for the hands.'
  return away.value || logError.value
})
const hands = useHands(guide, toRef(props, 'id'), props.step, length)
const { progress, paused, left, speaks, current, open, up, alarm, count, instructions, ready } = hands
useLitScreen()
const { value: frame } = useAsk(() => (guide.value?.frame_id ? queries.frame(guide.value.frame_id) : null))
const spots = computed(() => frame.value?.map ?? null)
const finished = computed(
  () => instructions.value.length > 0 && progress.value.at >= instructions.value.length,
)
/** Whether the map stands beside the instruction, with its plan. */
const planned = computed(() => current.value?.shows_plan === true && guide.value?.mount != null)
/** How many spots the press or stroke to come lies over. */
const passes = computed(() => {
  const plan = guide.value?.plan
  const at = (current.value?.first ?? 0) + count.value
  const stroke = plan?.strokes[at]
  if (stroke) return `Stroke ${at + 1} of ${plan?.strokes.length} passes ${spotWords(stroke.passes.length)}.`
  const dab = plan?.presses[at]
  return dab ? `Press ${at + 1} of ${plan?.presses.length} covers ${spotWords(dab.covers.length)}.` : ''
})
const spotWords = (n: number): string => countWords(n, 'spot')
/** What was counted along the way, to be put right before it is logged. */
const tallies = computed(() =>
  instructions.value.flatMap((i, at) =>
    i.count && i.target != null
      ? [{ at, count: i.count, n: progress.value.counts[String(at)] ?? 0, target: i.target }]
      : [],
  ),
)
/** What is counted, of one. */
const one = computed(() => current.value?.count?.slice(0, -1) ?? '')
const why = ref('')
const hazard = computed(() => visit.value?.advice.barred.find((b) => b.action === props.step)?.text ?? '')

let finishedAtMs = 0
let logged = false
watch(
  finished,
  (now) => {
    if (now) finishedAtMs = performance.now()
  },
  { immediate: true },
)

/** Counted short: that it was so is asked once, lest one key too many logs work that was not done. */
const short = computed(() => tallies.value.filter((t) => t.n < t.target))
const asksShort = ref(false)
watch(finished, () => (asksShort.value = false))

function tryLog(): void {
  if (!isMeant(finishedAtMs, performance.now())) return
  if (short.value.length) asksShort.value = true
  else void log()
}

async function log(): Promise<void> {
  if (logged) return
  const used = usedIn(progress.value, instructions.value, props.step, guide.value?.plan.swabs ?? 1)
  const done = await addStep(props.step as Step, used, why.value.trim(), hands.logKey.value)
  if (!done) return
  logged = true
  hands.forget()
  void router.push({ name: 'visit', params: { id: props.id } })
}

function leave(): void {
  void router.push({ name: 'visit', params: { id: props.id } })
}

function onKey(event: KeyboardEvent): void {
  const target = event.target as HTMLElement
  if (target.closest('input, textarea, select, .p-select')) return
  if (event.ctrlKey || event.metaKey || event.altKey) return
  const act: Record<string, () => void> = {
    ' ': () => (finished.value ? tryLog() : hands.next()),
    Backspace: hands.back,
    ArrowLeft: hands.back,
    ArrowRight: () => {
      if (!finished.value) hands.next()
    },
    Enter: () => {
      if (!finished.value) hands.more()
    },
    p: hands.pause,
    l: hands.changeLength,
    Escape: leave,
  }
  const run = act[event.key]
  if (run && event.repeat) {
    event.preventDefault() // a key held down is one press
    return
  }
  if (!run || (event.key === 'Enter' && target.closest('button'))) return
  event.preventDefault()
  run()
}

onMounted(() => {
  window.addEventListener('keydown', onKey)
})
onScopeDispose(() => window.removeEventListener('keydown', onKey))
</script>

<template>
  <div class="hands">
    <header>
      <strong>{{ STEP_WORDS[step] }}</strong>
      <span class="soft"
        >{{ Math.min(progress.at + 1, instructions.length) }} of {{ instructions.length }}</span
      >
      <span class="clock" :class="{ open }" role="timer" aria-label="Open-camera clock"
        ><i class="pi pi-clock" aria-hidden="true" /> {{ open ? 'open' : 'closed' }}
        {{ clock(progress.openS) }}</span
      >
      <span v-if="up" class="clock" :class="alarm" role="timer" aria-label="Mirror lock-up"
        >mirror up {{ clock(progress.upS)
        }}<template v-if="guide?.power?.warn_s"> of {{ clock(guide.power.warn_s) }}</template></span
      >
      <button class="small" :aria-pressed="paused" @click="hands.pause">
        {{ paused ? 'Continue' : 'Pause' }} <kbd>P</kbd>
      </button>
      <button class="small" @click="leave">Leave <kbd>Esc</kbd></button>
      <button class="small more-toggle" :aria-expanded="more" @click="more = !more">More</button>
      <div class="rare" :class="{ shown: more }">
        <Select
          v-model="pose"
          :options="poses"
          option-label="label"
          option-value="value"
          size="small"
          aria-label="How the camera lies"
        />
        <button v-if="hands.canSpeak" class="small" :aria-pressed="speaks" @click="hands.toggleSpeech">
          Speak: {{ speaks ? 'on' : 'off' }}
        </button>
        <button v-if="guide" class="small" :disabled="!ready" @click="hands.changeLength">
          {{ guide.length === 'short' ? 'In full' : 'In short' }} <kbd>L</kbd>
        </button>
        <button v-if="progress.at > 0" class="small" @click="hands.again">Start again</button>
      </div>
    </header>

    <Message v-if="failed || logError" severity="error" :closable="false">{{ failed || logError }}</Message>
    <Message v-else-if="hazard && !finished" severity="warn" :closable="false"
      >Advised against now: {{ hazard }} If you go on, your reason is asked for and kept.</Message
    >
    <p v-if="alarm !== 'none'" class="alarm" :class="alarm" role="alert">{{ ALARM_WORDS[alarm] }}</p>
    <p v-if="hands.unsaved.value" class="alarm" role="alert">
      Where you stand is not saved: the server does not answer. Going on works; it is tried again.
    </p>
    <section v-if="!ready && !failed" class="body end" role="status"><p>Opening the step</p></section>
    <section v-else-if="finished" class="body end">
      <p class="now">Done. Log this step, then shoot the test frame.</p>
      <div v-for="t in tallies" :key="t.at" class="counter">
        <button class="less" :aria-label="`One of the ${t.count} less`" @click="hands.less(t.at)">−</button>
        <output
          ><strong>{{ t.n }}</strong> of {{ t.target }} {{ t.count }}</output
        >
        <button class="less" :aria-label="`One of the ${t.count} more`" @click="hands.more(t.at)">+</button>
        <button v-if="t.n < t.target" class="small" @click="hands.countTo(t.target, t.at)">
          All {{ t.target }} were done
        </button>
      </div>
      <p v-if="asksShort && short.length" class="heed" role="alert">
        Counted: {{ short.map((t) => `${t.n} of ${t.target} ${t.count}`).join(', ') }}. Was it so?
        <button class="small" :disabled="busy || (hazard !== '' && why.trim().length < 3)" @click="log">
          Yes, log it so
        </button>
      </p>
      <label v-if="hazard" class="why"
        >Advised against: {{ hazard }} Your reason <input v-model="why" maxlength="400"
      /></label>
    </section>
    <section v-else-if="current" class="body" :class="{ plan: planned, drawn: current.scene && !planned }">
      <div class="say" aria-live="assertive">
        <p class="now">{{ current.text }}</p>
        <p v-if="current.heed" class="heed">{{ current.heed }}</p>
        <div v-if="current.timer_s" class="timer" role="timer">
          <span>{{ left > 0 ? clock(left) : 'Time is up' }}</span>
          <button class="small" @click="hands.restartTimer">Again</button>
        </div>
        <div v-if="current.count" class="counter">
          <button class="less" :aria-label="`One ${one} less`" @click="hands.less()">−</button>
          <output
            ><strong>{{ count }}</strong
            ><template v-if="current.target">
              of {{ countWords(current.target, one, current.count) }}</template
            ><template v-else> {{ current.count }}</template></output
          >
          <button class="more" @click="hands.more()">
            +1 <span class="hidden-label">{{ one }}</span> <kbd>Enter</kbd>
          </button>
        </div>
        <SceneDrawing v-if="planned && current.scene" :scene="current.scene" class="small-scene" />
      </div>
      <SceneDrawing v-if="current.scene && !planned" :scene="current.scene" class="scene" />
      <div v-if="planned && guide?.mount && spots" class="map">
        <MountMap
          :spots="spots.spots"
          :view="guide.mount"
          :plan="guide.plan"
          :reached="(current.first ?? 0) + count"
        />
        <p>
          {{ guide.mount.sentence }} <span v-if="passes" class="passes">{{ `${passes} ` }}</span>
          <span v-if="guide.plan.note" class="soft">{{ guide.plan.note }}</span>
        </p>
      </div>
    </section>

    <StockQuestion :asked="stockAsked" />
    <footer>
      <button class="back" :disabled="progress.at === 0" @click="hands.back">Back</button>
      <button
        v-if="finished"
        class="next"
        :disabled="busy || (hazard !== '' && why.trim().length < 3)"
        @click="tryLog"
      >
        Log it <kbd>Space</kbd>
      </button>
      <button v-else class="next" :disabled="!current" @click="hands.next">Next <kbd>Space</kbd></button>
    </footer>
  </div>
</template>

<style scoped>
.hands {
  position: fixed;
  inset: 0;
  z-index: 20;
  display: grid;
  grid-template-rows: auto auto auto minmax(0, 1fr) auto;
  background: var(--room);
}
header {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2) var(--space-3);
  align-items: center;
  padding: var(--space-2) var(--space-3);
  background: var(--panel);
  border-bottom: 1px solid var(--line);
  grid-row: 1;
}
header strong {
  font-size: var(--text-lead);
}
.body {
  display: grid;
  gap: var(--space-4);
  padding: var(--space-3) var(--space-5);
  min-height: 0;
  overflow: auto;
  grid-row: 4;
  align-items: center;
}
.alarm {
  grid-row: 3;
  padding: var(--space-2) var(--space-5);
  font-size: var(--text-title);
  font-weight: 650;
  color: var(--warn);
  background: var(--warn-wash);
}
.alarm.stop {
  color: var(--stop);
  background: var(--stop-wash);
}
.passes {
  font-weight: 650;
}
section.plan,
section.drawn {
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
}
.scene {
  max-height: 62vh;
}
.small-scene {
  height: clamp(110px, 22vh, 220px);
  margin-top: var(--space-3);
}
.rare {
  display: contents;
}
.rare :deep(.p-select) {
  max-width: 12.5rem;
}
.more-toggle {
  display: none;
}
.now {
  font-size: var(--text-far);
  line-height: 1.25;
  font-weight: 600;
}
section.plan .now {
  font-size: var(--text-far);
}
.heed {
  margin-top: var(--space-3);
  padding-left: var(--space-3);
  font-size: var(--text-title);
  color: var(--warn);
  border-left: 6px solid var(--warn);
}
.map {
  display: grid;
  grid-template-rows: minmax(0, 1fr) auto;
  height: 100%;
  min-height: 0;
}
.map p {
  padding: var(--space-2);
  font-size: var(--text-lead);
  text-align: center;
}
.clock {
  margin-left: auto;
  padding: 0 var(--space-3);
  font-size: var(--text-far);
  line-height: 1.3;
  font-weight: 600;
  border: 2px solid var(--line);
  border-radius: 4px;
}
.clock.warn {
  color: var(--warn);
  border-color: var(--warn);
  background: var(--warn-wash);
}
.clock.stop {
  color: var(--stop);
  border-color: var(--stop);
  background: var(--stop-wash);
}
.clock + .clock {
  margin-left: 0;
}
.clock.open {
  color: var(--stop);
  border-color: var(--stop);
  background: var(--stop-wash);
}
.counter,
.timer {
  display: flex;
  gap: var(--space-3);
  align-items: center;
  margin-top: var(--space-4);
  font-size: var(--text-far);
}
.counter output strong {
  font-size: var(--text-far);
}
button {
  font: inherit;
  color: var(--ink);
  background: var(--panel);
  border: 2px solid var(--ink-soft);
  border-radius: 6px;
  cursor: pointer;
}
button:disabled {
  opacity: 0.55;
  cursor: default;
}
.small {
  padding: var(--space-1) var(--space-3);
}
.more,
.less {
  min-width: 84px;
  min-height: 76px;
  font-size: var(--text-far);
}
.more {
  min-width: 190px;
}
footer {
  display: grid;
  grid-template-columns: 200px 1fr;
  gap: var(--space-3);
  padding: var(--space-3) var(--space-3) var(--space-3);
  grid-row: 5;
}
footer button {
  min-height: 104px;
  font-size: var(--text-far);
  font-weight: 650;
}
.next {
  color: var(--panel);
  background: var(--accent);
  border-color: var(--accent);
}
kbd {
  font: inherit;
  font-size: 0.75em;
  opacity: 0.85;
  padding: 0 0.35em;
  border: 1px solid currentcolor;
  border-radius: 3px;
}
.end {
  align-content: center;
}
.why {
  display: grid;
  gap: var(--space-2);
  font-size: var(--text-lead);
  color: var(--warn);
}
.why input {
  padding: var(--space-2);
  font: inherit;
  color: var(--ink);
  background: var(--panel);
  border: 2px solid var(--ink-soft);
  border-radius: 4px;
}
@media (max-width: 700px) {
  section.plan,
  section.drawn {
    grid-template-columns: 1fr;
    align-content: start;
  }
  section.drawn .scene {
    order: -1;
    min-height: 110px;
    max-height: 30vh;
  }
  .small-scene {
    display: none;
  }
  .map {
    min-height: 300px;
  }
  .body {
    gap: var(--space-3);
    padding: var(--space-3);
    align-items: start;
  }
  footer {
    grid-template-columns: 110px 1fr;
  }
  .clock {
    margin-left: 0;
    font-size: var(--text-lead);
  }
}
@media (max-width: 700px), (max-height: 560px) {
  .more-toggle {
    display: block;
  }
  .rare {
    display: none;
  }
  .rare.shown {
    display: flex;
    flex-wrap: wrap;
    gap: var(--space-2);
  }
  header {
    gap: var(--space-1) var(--space-2);
  }
  footer {
    padding: var(--space-2) var(--space-3);
  }
  footer button {
    min-height: 64px;
  }
  .more,
  .less {
    min-width: 64px;
    min-height: 56px;
  }
}
@media (max-height: 560px) {
  .now,
  .counter,
  .timer,
  .counter output strong {
    font-size: var(--text-title);
  }
  .heed {
    margin-top: var(--space-2);
    font-size: var(--text-lead);
  }
  .counter,
  .timer {
    margin-top: var(--space-2);
  }
  .body {
    gap: var(--space-2);
    padding: var(--space-2) var(--space-3);
    align-items: start;
  }
}
</style>
