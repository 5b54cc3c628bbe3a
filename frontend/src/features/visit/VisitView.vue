<script setup lang="ts">
import { chargeWord } from './battery'
import { API, inTrial } from '@/api/root'
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import { computed, ref, toRef, watch } from 'vue'
import { useQueryClient } from '@tanstack/vue-query'
import { RouterLink, useRouter } from 'vue-router'
import { queries } from '@/api/queries'
import type { Decision, Schools, Step, TrailItem } from '@/api/client'
import BackLink from '@/shared/components/BackLink.vue'
import ReportMenu from '@/shared/components/ReportMenu.vue'
import FailureNote from '@/shared/components/FailureNote.vue'
import { usePrices } from '@/shared/composables/usePrices'
import CloseVisit from './CloseVisit.vue'
import ClosedVisit from './ClosedVisit.vue'
import ConditionsForm from './ConditionsForm.vue'
import FrameArrival from './FrameArrival.vue'
import NothingInCommon from './NothingInCommon.vue'
import NextMove from './NextMove.vue'
import SchoolPoints from '@/shared/components/SchoolPoints.vue'
import StepUseForm from './StepUseForm.vue'
import StockQuestion from './StockQuestion.vue'
import OtherStep from './OtherStep.vue'
import VisitMap from './VisitMap.vue'
import VisitTrail from './VisitTrail.vue'
import { useLitScreen } from '@/shared/composables/useLitScreen'
import { useMe } from '@/shared/composables/useMe'
import { useSettings } from '@/shared/composables/useSettings'
import { useAim } from '@/shared/composables/useIntake'
import { useVisit } from './useVisit'
import { day } from '@/shared/lib/format'
import { setTitle } from '@/shared/lib/title'
import { money } from '@/shared/lib/kit'
import { EXPERIENCE_WORDS, isRung, STEP_WORDS, usualUse, VERDICT_WORDS } from '@/shared/lib/steps'

const props = defineProps<{ id: number }>()
const client = useQueryClient()
const {
  visit,
  error,
  busy,
  load,
  asked: stockAsked,
  setConditions,
  addStep,
  correct,
  accept,
  explain,
  remove,
  restore,
  measure,
  shoot,
  close,
  reopen,
} = useVisit(
  toRef(props, 'id'),
  () => void client.invalidateQueries({ queryKey: queries.hands(props.id).queryKey }),
)
watch(visit, (now) => now && setTitle(now.body.name, 'visit'), { immediate: true })
const { celsius } = useSettings()
const { isOwner, shared } = useMe()
useLitScreen(shared)
const chosen = ref<number | null>(null)
const asking = ref(false)
const otherOpen = ref(false)
const other = ref<Step | null>(null)
const closing = ref(false)
const choosing = ref(false)
const correcting = ref<TrailItem | null>(null)
const { currency } = usePrices()

function chooseSchools(change: Partial<Schools>): void {
  const now = visit.value?.conditions
  if (now && visit.value)
    void setConditions({ ...now, schools: { ...now.schools, ...change } }, visit.value.conditions_version)
}

const frames = computed(
  () => visit.value?.trail.flatMap((i) => (i.frame?.ready ? [i.frame.frame_id] : [])) ?? [],
)
const shown = computed(() =>
  chosen.value !== null && frames.value.includes(chosen.value)
    ? chosen.value
    : (frames.value[frames.value.length - 1] ?? null),
)
useAim(() => (visit.value?.state === 'open' ? { visit: props.id } : null))
/** What was just removed, to be put back with one press. */
const removed = ref<{ id: number; words: string } | null>(null)
async function takeOff(entryId: number): Promise<void> {
  const item = visit.value?.trail.find((i) => i.id === entryId)
  const words = item?.step ? STEP_WORDS[item.step.step] : (item?.frame?.name ?? 'It')
  if (await remove(entryId)) removed.value = { id: entryId, words }
}
async function putBack(): Promise<void> {
  if (removed.value && (await restore(removed.value.id))) removed.value = null
}
const usualAperture = computed(() => visit.value?.trail.map((i) => i.frame?.f_number).find((f) => f) ?? 22)
const around = computed(() => {
  const c = visit.value?.conditions
  if (!c) return ''
  const parts = [
    c.temperature_c == null ? '' : celsius(c.temperature_c),
    c.humidity_percent == null ? '' : `${c.humidity_percent} %`,
    c.battery_percent == null ? '' : `battery ${chargeWord(c.battery_percent)}`,
    c.experience ? EXPERIENCE_WORDS[c.experience] : 'experience not set',
    c.job_on ? `job ${day(c.job_on).replace(/ \d{4}$/, '')}` : '',
  ]
  return parts.filter(Boolean).join(' · ')
})

const unknownAperture = computed(() => {
  const newest = visit.value?.trail.find((i) => i.frame?.frame_id === visit.value?.latest_frame_id)
  return newest?.frame != null && newest.frame.f_number == null
})
/** Back from a service: what it did, by the first frame here against the last one before. */
const sentWords = computed(() => {
  const e = visit.value?.earlier
  if (e?.verdict !== 'sent') return ''
  if (!frames.value.length)
    return 'Back from a service: the first frame will be compared with the last one before.'
  if (!e.counts) return 'Back from a service, but its frames cannot be compared with the last one before.'
  const c = e.counts
  return `Back from a service: ${c.gone} removed, ${c.stayed} stayed, ${c.new} new since the last frame before.`
})

watch(frames, (now, old) => {
  if (now.length > old.length) chosen.value = null
})

const router = useRouter()
function editCamera(): void {
  void router.push({ name: 'body', params: { id: visit.value?.body_id }, query: { edit: 'yes' } })
}

const quick = ref(false)
function askClosing(atOnce: boolean): void {
  quick.value = atOnce
  closing.value = true
}

function otherway(decision: Decision): void {
  if (['service', 'defer', 'retouch'].includes(decision)) askClosing(false)
  else {
    other.value = isRung(decision) ? decision : null
    otherOpen.value = true
  }
}
</script>

<template>
  <div v-if="visit" class="view">
    <aside>
      <FailureNote :error="error" />
      <ClosedVisit v-if="visit.state === 'closed'" :visit="visit" :busy="busy" @reopen="reopen" />
      <NothingInCommon
        v-if="visit.state === 'open' && visit.place?.unexplained"
        :visit="visit"
        :busy="busy"
        @explain="explain"
      />
      <NextMove
        v-if="visit.state === 'open'"
        :visit="visit"
        :busy="busy"
        @done="addStep($event, { ...usualUse($event), assumed: true })"
        @other="otherway"
        @close="askClosing(false)"
        @finish="askClosing(true)"
        @conditions="asking = true"
        @tell="setConditions($event, visit.conditions_version)"
        @shoot="shoot(usualAperture)"
      >
        <FrameArrival
          v-if="visit.state === 'open'"
          :visit="visit"
          :busy="busy"
          @shoot="shoot"
          @arrived="load"
        />
      </NextMove>
    </aside>
    <div class="top">
      <div class="head">
        <BackLink :home="{ name: 'bench' }" home-words="Bench" />
        <h1>
          <RouterLink :to="{ name: 'body', params: { id: visit.body_id } }">{{ visit.body.name }}</RouterLink>
        </h1>
        <span class="soft" :title="visit.conditions.why_now"
          >{{ day(visit.opened_at)
          }}<template v-if="visit.conditions.why_now"> · {{ visit.conditions.why_now }}</template></span
        >
        <span v-if="visit.state === 'closed'" class="closed"
          >Closed: {{ VERDICT_WORDS[visit.verdict ?? ''] }}</span
        >
        <span v-if="visit.look_again_on" class="soft">next look {{ day(visit.look_again_on) }}</span>
        <span class="around">
          <span class="soft"
            >{{ around
            }}<template v-if="visit.cost">
              · {{ money(visit.cost, currency) }} used<template v-if="visit.unpriced"
                >, {{ visit.unpriced }} unpriced</template
              ></template
            ></span
          >
          <Button
            class="works"
            v-if="visit.state === 'open'"
            label="Conditions"
            icon="pi pi-pencil"
            size="small"
            severity="secondary"
            variant="outlined"
            @click="asking = true"
          />
          <Button
            class="works"
            v-if="visit.state === 'open'"
            label="Methods"
            size="small"
            severity="secondary"
            variant="text"
            @click="choosing = true"
          />
          <ReportMenu :path="`${API}/visits/${visit.id}/report`" />
          <Button
            v-if="isOwner && !inTrial"
            icon="pi pi-mobile"
            label="Phone"
            aria-label="Phone: show this visit there"
            size="small"
            severity="secondary"
            variant="text"
            @click="router.push({ name: 'share', query: { visit: visit.id } })"
          />
          <Button
            class="works"
            v-if="visit.state === 'open'"
            label="Close"
            size="small"
            severity="secondary"
            variant="text"
            @click="askClosing(false)"
          />
        </span>
      </div>
      <p v-if="sentWords" class="sent">
        <i class="pi pi-replay" aria-hidden="true" /> {{ sentWords }}
        <RouterLink
          v-if="visit.earlier?.frame_id && frames[0]"
          :to="{
            name: 'compare',
            params: { before: visit.earlier.frame_id, after: frames[0] },
            query: { works: visit.works_at },
          }"
          >Compare</RouterLink
        >
      </p>
      <VisitTrail
        :visit="visit"
        :shown="shown"
        @show="chosen = $event"
        @remove="takeOff"
        @camera="editCamera"
        @accept="accept"
        @measure="measure"
        @correct="correcting = $event"
        @measuring="load"
      />
      <p v-if="removed" class="removed" role="status">
        Removed: {{ removed.words }}.
        <Button label="Undo" size="small" severity="secondary" variant="outlined" @click="putBack" />
        <Button
          icon="pi pi-times"
          size="small"
          severity="secondary"
          variant="text"
          aria-label="Dismiss"
          @click="removed = null"
        />
      </p>
    </div>
    <VisitMap v-if="shown !== null" class="map" :visit="visit" :frame-id="shown" />
    <div v-else class="map empty"><p>The map appears here.</p></div>
    <ConditionsForm
      v-model:open="asking"
      :conditions="visit.conditions"
      :version="visit.conditions_version"
      :body="visit.body"
      :offered="visit.offered"
      :unknown-aperture="unknownAperture"
      :error="error"
      :save="setConditions"
    />
    <OtherStep
      v-model:open="otherOpen"
      :visit="visit"
      :wanted="other"
      @log="(step, why) => addStep(step, { ...usualUse(step), assumed: true }, why)"
    />
    <Dialog v-model:visible="choosing" modal header="Methods for this visit" :style="{ width: '860px' }">
      <div class="schools">
        <SchoolPoints :schools="visit.conditions.schools ?? {}" as-usual @choose="chooseSchools" />
      </div>
    </Dialog>
    <StepUseForm
      :item="correcting"
      @back="correcting = null"
      @save="
        (id, use, taken) => {
          correcting = null
          void correct(id, use, taken)
        }
      "
    />
    <StockQuestion :asked="stockAsked" />
    <CloseVisit v-model:open="closing" :quick="quick" :visit="visit" :currency="currency" :close="close" />
  </div>
  <div v-else class="wait" role="status">
    <FailureNote :error="error"><RouterLink :to="{ name: 'bench' }">Back</RouterLink></FailureNote>
    <p v-if="!error">Opening the visit</p>
  </div>
</template>

<style scoped>
.removed {
  display: flex;
  gap: var(--space-2);
  align-items: center;
  padding: var(--space-1) var(--space-3);
  background: var(--accent-wash);
}
.sent {
  padding: var(--space-2) var(--space-3);
  background: var(--panel);
  border-bottom: 1px solid var(--line);
}
/* The next move is the first thing that the tab key comes to, wherever it stands. */
.view {
  display: grid;
  grid-template: 'top top' auto 'map move' minmax(0, 1fr) / minmax(0, 1fr) 400px;
  height: 100%;
}
.top {
  grid-area: top;
  min-width: 0;
}
.map {
  grid-area: map;
}
.head {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-1) var(--space-3);
  align-items: center;
  padding: var(--space-1) var(--space-3);
  background: var(--panel);
}
.head h1 {
  font-size: var(--text-lead);
}
@media (min-width: 1101px) {
  .head {
    flex-wrap: nowrap;
    white-space: nowrap;
  }
  .head > .soft {
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .around {
    flex-shrink: 0;
  }
}
.head a {
  color: var(--ink);
  text-decoration: none;
}
.around {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-1) var(--space-2);
  align-items: center;
  margin-left: auto;
}
.around :deep(.p-button-label) {
  white-space: nowrap;
}
.closed {
  padding: 0.1rem var(--space-2);
  font-weight: 600;
  color: var(--good);
  border: 1px solid var(--good);
  border-radius: 4px;
}
aside {
  grid-area: move;
  display: flex;
  flex-direction: column;
  gap: var(--space-3);
  min-height: 0;
  padding: var(--space-3) var(--space-3);
  overflow: auto;
  background: var(--panel);
  border-left: 1px solid var(--line);
}
.schools {
  columns: 2;
  column-gap: var(--space-3);
}
.empty {
  display: grid;
  place-items: center;
  background: var(--surround);
}
.empty p {
  padding: var(--space-2) var(--space-3);
  background: var(--panel);
  border-radius: 4px;
}
.wait {
  max-width: 480px;
  margin: var(--space-6) auto;
  text-align: center;
}
@media (max-width: 900px) {
  .view {
    grid-template-columns: minmax(0, 1fr) 320px;
  }
}
@media (max-width: 700px) {
  .view {
    grid-template: 'top' auto 'move' auto 'map' auto / minmax(0, 1fr);
    height: auto;
  }
  aside {
    border-left: 0;
  }
  .empty {
    min-height: 220px;
  }
}
/* The map is a screen's; on paper the report draws it. */
@media print {
  .view,
  aside {
    display: block;
  }
  .view > .map {
    display: none;
  }
  aside {
    border-left: 0;
  }
}
</style>
