<script setup lang="ts">
import Button from 'primevue/button'
import { computed } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { useQueryClient } from '@tanstack/vue-query'
import {
  answer,
  api,
  freshKey,
  type Conditions,
  type Decision,
  type KitItem,
  type Step,
  type Visit,
} from '@/api/client'
import { queries } from '@/api/queries'
import { useAsk } from '@/shared/composables/useAsk'
import { useTell } from '@/shared/composables/useTell'
import { freshThing, ITEM_WORDS, unitOf } from '@/shared/lib/kit'
import { barredWords, isRung, STEP_WORDS } from '@/shared/lib/steps'
import AskConditions from './AskConditions.vue'

const props = defineProps<{ visit: Visit; busy: boolean }>()
const emit = defineEmits<{
  done: [step: Step]
  other: [decision: Decision]
  close: []
  finish: []
  conditions: []
  tell: [conditions: Conditions]
  shoot: []
}>()
const router = useRouter()
const advice = computed(() => props.visit.advice)
const rung = computed(() => (isRung(advice.value.decision) ? advice.value.decision : null))
/** The plan of the step, known before the camera is opened. */
const { value: guide } = useAsk(() => {
  const { id, version, state } = props.visit
  const step = rung.value
  if (!step || state !== 'open') return null
  return queries.guide(id, step, step === 'air' ? 'overhead' : 'top_away', version)
})
/** What this step has done so far; nothing where it was never retested. */
const { value: odds } = useAsk(() =>
  rung.value && props.visit.state === 'open' ? queries.odds(props.visit.body_id, rung.value) : null,
)
/** A step can be done without its plan; its guide tells what is wrong. */
const before = computed(() => guide.value?.before ?? [])
const FEW = 5
/** A frame that is not fit says why, in place of the plain reason. */
const unfit = computed(() =>
  advice.value.decision === 'reshoot' && props.visit.state === 'open' ? (props.visit.unfit ?? []) : [],
)
const FIX_WORDS = { conditions: 'Update conditions', camera: 'Edit the camera', kit: 'Open the kit' } as const
/** Conditions that are asked for right here need no button of their own. */
const fixes = computed(() =>
  (advice.value.fix_in ?? []).filter((place) => place !== 'conditions' || !advice.value.asks?.length),
)
/** Leads to where what must be fixed first is entered. */
function fix(place: keyof typeof FIX_WORDS): void {
  if (place === 'conditions') emit('conditions')
  else if (place === 'kit') void router.push({ name: 'kit', query: { visit: props.visit.id } })
  else void router.push({ name: 'body', params: { id: props.visit.body_id }, query: { edit: 'yes' } })
}
/** The step that is in hand on this or another device. */
const { value: hands } = useAsk(() => (props.visit.state === 'open' ? queries.hands(props.visit.id) : null))
const inHand = computed(() => hands.value?.place?.step ?? null)
const lacks = computed(() => advice.value.lacks ?? [])
const kit = useTell()
const client = useQueryClient()
/** What is owned and not entered yet: a tool is entered at once, what is counted needs its count. */
async function own(item: KitItem['item']): Promise<void> {
  if (unitOf(item) !== null) {
    await router.push({ name: 'kit', query: { add: item, visit: props.visit.id } })
    return
  }
  const params = { header: { 'Idempotency-Key': freshKey() } }
  const body = freshThing(item)
  if (await kit.tell(() => answer(api.POST('/api/kit', { params, body }))))
    await client.invalidateQueries({ queryKey: ['visits', props.visit.id] })
}
const placeWords = computed(() => {
  const place = props.visit.place
  if (!place || (place.state === 'nothing' && !place.wall.length)) return ''
  return place.words
})
/** What the last step did stands on the trail already. */
const reasons = computed(() => advice.value.why.filter((w) => w !== advice.value.last_step))
const ends = computed(() => ['stop_done', 'defer', 'service', 'retouch'].includes(advice.value.decision))
/** Pictures already taken are patched by the frame from before anything was done. */
function toPictures(): void {
  const first = props.visit.trail.find((i) => i.frame)?.frame?.frame_id
  void router.push({ name: 'pictures', query: { body: props.visit.body_id, frame: first } })
}
/** What is so whatever is cleaned stands with the kit. */
const cautions = computed(() => advice.value.cautions.filter((c) => c.code !== 'air_travel'))
/** What is new today and of this step; what a gate or an earlier step said waits behind a click. */
const careful = computed(() => cautions.value.filter((c) => !c.said_before).slice(0, FEW))
const told = computed(() => cautions.value.filter((c) => !careful.value.includes(c)))
/** What is so every day stands apart from what is barred now. */
const barred = computed(() => advice.value.barred.filter((b) => !b.always))
const never = computed(() => advice.value.barred.filter((b) => b.always))
/** Bars with one and the same reason are told once. */
const groups = computed(() => {
  const found = new Map<string, string[]>()
  for (const b of barred.value) found.set(b.text, [...(found.get(b.text) ?? []), barredWords(b.action)])
  return [...found.entries()]
})
</script>

<template>
  <section class="move" aria-label="Next move">
    <p class="soft over">Next move</p>
    <h1>{{ advice.title }}</h1>
    <p v-for="reason in unfit" :key="reason" class="why unfit">{{ reason }}</p>
    <p v-for="reason in unfit.length ? [] : reasons" :key="reason" class="why">{{ reason }}</p>
    <p v-if="odds?.lines[0]" class="soft odds">
      {{ odds.lines[0].words }}.
      <RouterLink :to="{ name: 'odds', query: { body: visit.body_id } }">All steps</RouterLink>
    </p>
    <p v-if="placeWords" class="place" :class="visit.place?.state">
      <i
        :class="visit.place?.state === 'proved' ? 'pi pi-check-circle' : 'pi pi-question-circle'"
        aria-hidden="true"
      />
      {{ placeWords }}
    </p>

    <p v-if="inHand && inHand !== rung" class="place">
      <i class="pi pi-play" aria-hidden="true" /> In hand: {{ STEP_WORDS[inHand] }}.
      <RouterLink :to="{ name: 'hands', params: { id: visit.id, step: inHand } }">Continue it</RouterLink>
    </p>
    <AskConditions
      v-if="visit.state === 'open' && advice.asks?.length"
      :visit="visit"
      :busy="busy"
      @tell="emit('tell', $event)"
      @all="emit('conditions')"
    />
    <div v-if="visit.state === 'open'" class="act works">
      <template v-if="rung">
        <RouterLink :to="{ name: 'hands', params: { id: visit.id, step: rung } }" class="go">
          <i class="pi pi-play" aria-hidden="true" />
          {{ inHand === rung ? 'Continue step by step' : 'Start step by step' }}
        </RouterLink>
        <Button
          label="Already done"
          severity="secondary"
          variant="outlined"
          :disabled="busy"
          @click="emit('done', rung as Step)"
        />
      </template>
      <Button
        v-else-if="advice.decision === 'reshoot' && visit.virtual"
        label="Shoot now"
        icon="pi pi-camera"
        :disabled="busy"
        @click="emit('shoot')"
      />
      <template v-else-if="advice.decision === 'prepare'">
        <Button
          v-for="item in lacks"
          :key="item"
          :label="`I have one: ${ITEM_WORDS[item].toLowerCase()}`"
          icon="pi pi-check"
          :disabled="kit.busy.value"
          @click="own(item)"
        />
        <Button
          v-for="(place, i) in fixes"
          :key="place"
          :label="FIX_WORDS[place]"
          :severity="i || lacks.length || advice.asks?.length ? 'secondary' : undefined"
          :variant="i || lacks.length || advice.asks?.length ? 'outlined' : undefined"
          @click="fix(place)"
        />
        <p v-if="kit.error.value" role="alert">{{ kit.error.value }}</p>
      </template>
      <Button
        v-else-if="advice.decision === 'stop_done'"
        label="Finish: it is clean"
        icon="pi pi-check"
        :disabled="busy"
        @click="emit('finish')"
      />
      <Button
        v-else-if="advice.decision === 'retouch'"
        label="Patch the pictures"
        icon="pi pi-images"
        @click="toPictures"
      />
      <RouterLink
        v-if="visit.body.access === 'fixed_lens'"
        :to="{ name: 'tray', params: { id: visit.id } }"
        :class="{ go: advice.decision === 'teardown' }"
      >
        {{ advice.decision === 'teardown' ? 'To the tray' : 'The tray: take it apart' }}
      </RouterLink>
      <Button
        v-if="ends && advice.decision !== 'stop_done'"
        label="Close this visit"
        icon="pi pi-check"
        :severity="advice.decision === 'retouch' ? 'secondary' : undefined"
        :variant="advice.decision === 'retouch' ? 'outlined' : undefined"
        @click="emit('close')"
      />
    </div>

    <template v-if="before.length">
      <h2>Plan</h2>
      <ul>
        <li v-for="line in before" :key="line">{{ line }}</li>
      </ul>
    </template>
    <slot v-if="advice.decision === 'reshoot'" />
    <template v-if="advice.needs.length">
      <h2>{{ advice.decision === 'prepare' ? 'Fix first' : 'You need' }}</h2>
      <ul>
        <li v-for="need in advice.needs" :key="need">{{ need }}</li>
      </ul>
    </template>
    <template v-if="careful.length">
      <h2>Careful</h2>
      <ul class="heed">
        <li v-for="c in careful" :key="c.code">{{ c.text }}</li>
      </ul>
    </template>
    <details v-if="told.length">
      <summary>{{ told.length }} {{ careful.length ? 'more cautions' : 'cautions' }}</summary>
      <ul class="heed">
        <li v-for="c in told" :key="c.code">{{ c.text }}</li>
      </ul>
    </details>
    <details v-if="groups.length" class="barred">
      <summary><i class="pi pi-ban" aria-hidden="true" /> Don’t do this now</summary>
      <ul>
        <li v-for="[why, names] in groups" :key="why">
          <strong>{{ names.join(', ') }}</strong>: {{ why }}
        </li>
      </ul>
    </details>
    <details v-if="never.length" class="barred">
      <summary><i class="pi pi-ban" aria-hidden="true" /> Never</summary>
      <ul>
        <li v-for="b in never" :key="b.action">
          <strong>{{ barredWords(b.action) }}</strong>: {{ b.text }}
        </li>
      </ul>
    </details>
    <details v-if="visit.state === 'open'" class="others works">
      <summary>Other options</summary>
      <ul>
        <li v-for="a in advice.alternatives" :key="a.decision">
          <button class="link" @click="emit('other', a.decision)">{{ STEP_WORDS[a.decision] }}</button>:
          {{ a.why }}
        </li>
        <li>
          <button class="link" @click="emit('other', 'prepare')">Something else</button>: log any step, with a
          reason.
        </li>
      </ul>
    </details>
    <slot v-if="advice.decision !== 'reshoot'" />
  </section>
</template>

<style scoped>
.place {
  font-size: var(--text-body);
}
.place.proved {
  color: var(--ink-soft);
}
.move {
  display: grid;
  gap: var(--space-2);
  align-content: start;
}
.over {
  font-size: var(--text-small);
  margin-bottom: -0.5rem;
}
h1 {
  font-size: var(--text-title);
  line-height: 1.2;
}
h2 {
  margin-top: var(--space-1);
}
.why {
  font-size: var(--text-body);
}
.act {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2);
  padding: var(--space-1) 0;
}
.go {
  display: inline-flex;
  gap: var(--space-2);
  align-items: center;
  padding: var(--space-2) var(--space-3);
  font-weight: 600;
  font-size: var(--text-lead);
  color: var(--panel);
  background: var(--accent);
  border-radius: 4px;
  text-decoration: none;
}
ul {
  margin: 0;
  padding-left: var(--space-3);
  display: grid;
  gap: var(--space-1);
}
.unfit {
  padding: var(--space-2) var(--space-3);
  color: var(--warn);
  background: var(--warn-wash);
  border-radius: 4px;
}
.heed li::marker {
  content: '! ';
  color: var(--warn);
  font-weight: 800;
}
.barred summary {
  color: var(--stop);
}
</style>
