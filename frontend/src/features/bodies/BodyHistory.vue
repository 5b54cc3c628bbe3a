<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import Button from 'primevue/button'
import Column from 'primevue/column'
import DataTable from 'primevue/datatable'
import Select from 'primevue/select'
import { computed, ref } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { answer, api, freshKey, type Schemas } from '@/api/client'
import { queries } from '@/api/queries'
import FailureNote from '@/shared/components/FailureNote.vue'
import PlotCanvas from '@/shared/components/PlotCanvas.vue'
import { useAsk } from '@/shared/composables/useAsk'
import { useTell } from '@/shared/composables/useTell'
import { count, day, dayOf } from '@/shared/lib/format'
import { historyPlot, type PlotColours } from '@/shared/lib/plots'
import DensityMap from './DensityMap.vue'
import FrameByFrame from './FrameByFrame.vue'
import { chanceWords, exposureWords, placeWords, rateWords } from './outlook'

/** A camera's counts over time, where dust settles, how fast it comes, when to look again. */
const props = defineProps<{ bodyId: number }>()
const client = useQueryClient()
const today = dayOf(new Date())
const router = useRouter()
const { value: history, error: away } = useAsk(() => queries.history(props.bodyId))
const { value: outlook, error: outlookAway } = useAsk(() => queries.outlook(props.bodyId))
const logging = useTell<Schemas['Outlook']>((now) =>
  client.setQueryData(queries.outlook(props.bodyId).queryKey, now),
)
const error = computed(() => logging.error.value || away.value || outlookAway.value)
const make = computed(() => {
  const now = history.value
  return now ? (c: PlotColours) => historyPlot(now, c) : null
})
const says = computed(() => {
  const points = history.value?.points ?? []
  const [first, last] = [points[0], points[points.length - 1]]
  return first && last
    ? `Visible spots over time: ${first.visible} on ${day(first.at)}, ${last.visible} on ${day(last.at)}`
    : ''
})
const frames = computed(() =>
  (history.value?.points ?? []).map((p) => ({
    label: `${day(p.at)}, ${p.visible} visible`,
    value: p.frame_id,
  })),
)
const before = ref<number | null>(null)
const after = ref<number | null>(null)
const pair = computed(() => [
  before.value ?? frames.value[0]?.value ?? null,
  after.value ?? frames.value[frames.value.length - 1]?.value ?? null,
])

const place = ref<string | null>('')
/** Places named before, the newest first. */
const places = computed(() => [
  ...new Set((outlook.value?.exposures ?? []).map((e) => e.place).filter((named) => named !== '')),
])

function log(kind: 'lens_change' | 'dusty_day'): void {
  const params = { path: { body_id: props.bodyId }, header: { 'Idempotency-Key': freshKey() } }
  void logging.tell(() =>
    answer(
      api.POST('/api/bodies/{body_id}/exposures', {
        params,
        body: { kind, place: kind === 'dusty_day' ? (place.value ?? '').trim() : '' },
      }),
    ),
  )
}
function undo(exposure_id: number): void {
  const params = { path: { body_id: props.bodyId, exposure_id } }
  void logging.tell(() => answer(api.DELETE('/api/bodies/{body_id}/exposures/{exposure_id}', { params })))
}
function compare(): void {
  const [from, to] = pair.value
  if (from == null || to == null) return
  void router.push({
    name: 'compare',
    params: { before: from, after: to },
    query: { works: history.value?.works_at },
  })
}
</script>

<template>
  <section class="history" aria-label="History">
    <FailureNote :error="error" />
    <div v-if="history && !history.points.length" class="lead">
      <slot />
      <p class="soft">Nothing counted yet.</p>
    </div>
    <template v-else-if="history && make">
      <FrameByFrame
        :body-id="bodyId"
        :points="history.points"
        :steps="history.steps"
        :works-at="history.works_at"
      >
        <slot />
      </FrameByFrame>
      <h2>History</h2>
      <PlotCanvas :make="make" :says="says" />
      <p class="legend soft">
        <span>■ visible at f/{{ history.works_at }}</span> <span>□ not visible there</span>
        <RouterLink :to="{ name: 'odds', query: { body: bodyId } }">What each step removes</RouterLink>
      </p>
      <div v-if="frames.length > 1" class="pair">
        <Select
          :model-value="pair[0]"
          :options="frames"
          option-label="label"
          option-value="value"
          size="small"
          aria-label="First frame"
          @update:model-value="before = $event"
        />
        <span>against</span>
        <Select
          :model-value="pair[1]"
          :options="frames"
          option-label="label"
          option-value="value"
          size="small"
          aria-label="Second frame"
          @update:model-value="after = $event"
        />
        <Button label="Compare" size="small" severity="secondary" variant="outlined" @click="compare" />
      </div>
      <div class="maps">
        <DensityMap title="Where dust settles" :cells="history.density.settled" :density="history.density" />
        <DensityMap
          title="What is left after contact"
          :cells="history.density.left"
          :density="history.density"
        />
      </div>
    </template>
    <h2>How dust comes</h2>
    <template v-if="outlook">
      <p v-if="outlook.arrivals">
        {{ rateWords(outlook.arrivals) }}
        <span v-if="outlook.arrivals.intervals" class="soft">
          {{ count(outlook.arrivals.came, 'spot') }} in {{ Math.round(outlook.arrivals.days) }} days.</span
        >
        <span v-else class="soft">By your other cameras.</span>
      </p>
      <p v-else class="soft">Two visits are needed first.</p>
      <p v-if="outlook.forecast" class="forecast">{{ chanceWords(outlook.forecast, today) }}</p>
      <p v-for="words in outlook.prevention" :key="words">{{ words }}</p>
      <ul v-if="outlook.places.length" class="logged">
        <li v-for="p in outlook.places" :key="p.place">{{ placeWords(p) }}</li>
      </ul>
      <template v-if="outlook.others.length > 1">
        <h3>Your other cameras</h3>
        <DataTable :value="outlook.others" data-key="body_id" size="small">
          <Column header="Camera">
            <template #body="{ data }">
              <RouterLink :to="{ name: 'body', params: { id: data.body_id } }">{{ data.name }}</RouterLink>
            </template>
          </Column>
          <Column header="Visible spots a week">
            <template #body="{ data }">{{ (7 * data.a_day).toFixed(1) }}</template>
          </Column>
          <Column header="Days">
            <template #body="{ data }">{{ Math.round(data.days) }}</template>
          </Column>
        </DataTable>
      </template>
      <div class="log">
        <Button
          label="Lens changed today"
          icon="pi pi-sync"
          size="small"
          severity="secondary"
          variant="outlined"
          @click="log('lens_change')"
        />
        <Button
          class="works"
          label="Dusty day"
          icon="pi pi-cloud"
          size="small"
          severity="secondary"
          variant="outlined"
          @click="log('dusty_day')"
        />
        <Select
          v-model="place"
          :options="places"
          editable
          size="small"
          placeholder="Where, if it matters"
          :input-props="{ maxlength: 120 }"
          aria-label="Where the day was dusty"
        />
      </div>
      <ul v-if="outlook.exposures.length" class="logged">
        <li v-for="e in outlook.exposures.slice(0, 6)" :key="e.id">
          {{ exposureWords(e) }}
          <Button
            label="Undo"
            size="small"
            severity="secondary"
            variant="text"
            :aria-label="`Undo ${exposureWords(e)}`"
            @click="undo(e.id)"
          />
        </li>
      </ul>
    </template>
  </section>
</template>

<style scoped>
.history {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: var(--space-2);
  min-width: 0;
}
.legend,
.pair,
.log {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-1) var(--space-3);
  align-items: center;
}
.maps {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(240px, 340px));
  gap: var(--space-3);
}
.forecast {
  font-weight: 600;
}
.logged {
  margin: 0;
  padding: 0;
  list-style: none;
}
@media print {
  .pair,
  .log {
    display: none;
  }
}
</style>
