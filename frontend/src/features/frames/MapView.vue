<script setup lang="ts">
import Button from 'primevue/button'
import Message from 'primevue/message'
import ProgressBar from 'primevue/progressbar'
import { computed, ref, toRef, watch } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import Select from 'primevue/select'
import Tab from 'primevue/tab'
import TabList from 'primevue/tablist'
import TabPanel from 'primevue/tabpanel'
import TabPanels from 'primevue/tabpanels'
import Tabs from 'primevue/tabs'
import { answer, api } from '@/api/client'
import ApertureBar from './ApertureBar.vue'
import CameraQuestion from './CameraQuestion.vue'
import FrameFacts from './FrameFacts.vue'
import MoreFrames from './MoreFrames.vue'
import ApertureEntry from '@/shared/components/ApertureEntry.vue'
import BackLink from '@/shared/components/BackLink.vue'
import FailureNote from '@/shared/components/FailureNote.vue'
import MapTools from '@/shared/components/MapTools.vue'
import SaveMenu from './SaveMenu.vue'
import SensorMap from '@/shared/components/SensorMap.vue'
import SpotDetail from '@/shared/components/SpotDetail.vue'
import SpotFilters from './SpotFilters.vue'
import SpotTable from '@/shared/components/SpotTable.vue'
import { useFrame } from '@/shared/composables/useFrame'
import { useQuestion } from '@/shared/composables/useQuestion'
import { useTell } from '@/shared/composables/useTell'
import { STEP_WORDS } from '@/shared/composables/useUploads'
import { usePrediction } from './usePrediction'
import { useWorksAt } from './useWorksAt'
import { asPredicted, noticedIn, WORKING } from '@/shared/lib/apertures'
import { count } from '@/shared/lib/format'
import { filterSpots, type SpotFilter } from '@/shared/lib/spots'
import type { Tone } from '@/shared/lib/tones'

const props = defineProps<{ id: number }>()
const { detail, error, job, setSensor, load, follow, measureAgain } = useFrame(toRef(props, 'id'))
const { worksAt, setWorksAt } = useWorksAt(() => void load())
const working = WORKING.map((n) => ({ label: `f/${n}`, value: n }))

const tone = ref<Tone>('relief')
const gain = ref(2)
const marks = ref(true)
const filter = ref<SpotFilter>({ kinds: [], showsAt: null })
const selectedId = ref<string | null>(null)
const side = ref('spots')

const map = computed(() => detail.value?.map ?? null)
const facts = computed(() => map.value?.frames[0] ?? null)
const shown = computed(() => filterSpots(map.value?.spots ?? [], filter.value))
const looksAt = ref<number | null>(null)
const { prediction } = usePrediction(toRef(props, 'id'), looksAt)
const drawn = computed(() => (prediction.value ? asPredicted(shown.value, prediction.value) : shown.value))
const noticed = computed(() => (prediction.value ? noticedIn(prediction.value) : new Set<string>()))
const says = computed(() =>
  prediction.value ? `Worked out for f/${prediction.value.f_number}` : 'As the picture shows it',
)
const selected = computed(() => shown.value.find((s) => s.id === selectedId.value) ?? null)
const retakes = computed(() => map.value?.checks.filter((c) => c.level === 'retake') ?? [])
const notes = computed(() => map.value?.checks.filter((c) => c.level === 'note').length ?? 0)

const router = useRouter()
const ask = useQuestion()
const removing = useTell(() => router.push({ name: 'bench' }))
/** Says what goes with the frame before it goes. */
function askDelete(): void {
  const on = detail.value?.visits ?? []
  const names = on.map((v) => v.body_name).join(', ')
  const text = [
    `${detail.value?.frame.name ?? 'The frame'}: its stored file and its map go for good.`,
    on.length ? `It also leaves the trail of ${count(on.length, 'visit')} (${names}).` : '',
  ]
  ask('Delete this frame?', text.filter(Boolean).join(' '), 'Delete the frame', () =>
    removing.tell(() =>
      answer(api.DELETE('/api/frames/{frame_id}', { params: { path: { frame_id: props.id } } }), true),
    ),
  )
}

watch(
  () => props.id,
  () => {
    selectedId.value = null
    looksAt.value = null
    filter.value = { kinds: [], showsAt: null }
  },
)
</script>

<template>
  <div v-if="map && facts && detail" class="view">
    <aside aria-label="Measurements">
      <div class="head">
        <div class="names">
          <BackLink :home="{ name: 'bench' }" home-words="Bench" />
          <h1>{{ detail.frame.name }}</h1>
        </div>
        <SaveMenu :frame-id="detail.frame.id" />
      </div>
      <p class="verdict">
        <template v-if="map.summary.count === 0 && !map.fit"
          ><strong>Nothing can be told from this frame.</strong></template
        >
        <template v-else-if="map.summary.relevant === null"
          ><strong>{{ count(map.summary.count, 'spot') }}</strong
          >; what is visible cannot be worked out: no aperture recorded.
        </template>
        <template v-else-if="map.summary.count === 0"
          ><strong>No spots found.</strong> At this aperture the sensor looks clean.</template
        >
        <template v-else>
          <strong>{{ count(map.summary.count, 'spot') }}</strong>,
          {{ map.summary.relevant || 'none' }} visible at
          <Select
            :model-value="worksAt"
            :options="working"
            option-label="label"
            option-value="value"
            size="small"
            aria-label="I work at"
            @update:model-value="setWorksAt"
          />
        </template>
      </p>
      <ApertureEntry
        v-if="map.summary.relevant === null && !job"
        :frame-id="detail.frame.id"
        @measuring="follow"
      />
      <CameraQuestion v-if="detail.frame.asks_camera" :key="id" :detail="detail" @alone="load" />
      <div class="onward">
        <RouterLink
          v-for="v in detail.visits"
          :key="v.visit_id"
          :to="{ name: 'visit', params: { id: v.visit_id } }"
          >{{ v.state === 'open' ? 'Open visit' : 'Visit' }} of {{ v.body_name }}</RouterLink
        >
        <RouterLink
          v-if="!detail.visits.length && !detail.frame.asks_camera"
          :to="{ name: 'bodies', query: { frame: id } }"
          >Begin a visit</RouterLink
        >
        <Button
          class="deletes"
          label="Delete"
          icon="pi pi-trash"
          size="small"
          severity="secondary"
          variant="text"
          @click="askDelete"
        />
        <MoreFrames :frame-id="detail.frame.id" :members="map.frames.length" @measuring="follow" />
      </div>
      <div v-if="job" class="busy" role="status">
        {{ STEP_WORDS[job.step] ?? 'Measuring again' }}
        <ProgressBar
          :value="Math.round(job.progress * 100)"
          :show-value="false"
          aria-label="Measuring again"
        />
      </div>
      <FailureNote :error="error || removing.error.value" />
      <Message v-for="check in retakes" :key="check.code" severity="warn" icon="pi pi-exclamation-triangle">
        <strong>Shoot again.</strong> {{ check.message }} {{ check.remedy }}
      </Message>

      <Tabs v-model:value="side" class="sides">
        <TabList aria-label="What to show">
          <Tab value="spots">Spots</Tab>
          <Tab value="frame"
            >Frame and checks<span v-if="notes"> ({{ notes }})</span></Tab
          >
        </TabList>
        <TabPanels>
          <TabPanel value="spots" class="spots">
            <SpotFilters v-model="filter" :spots="map.spots" />
            <SpotTable
              v-model:selected="selectedId"
              :spots="shown"
              :total="map.spots.length"
              :fit="map.fit"
            />
            <SpotDetail
              v-if="selected"
              :spot="selected"
              :frame-id="detail.frame.id"
              :facts="facts"
              :tile-px="detail.tile_px"
              :gain="gain"
            />
            <p v-else-if="shown.length" class="soft hint">
              Choose a spot in the list or on the map to see it enlarged.
            </p>
          </TabPanel>
          <TabPanel value="frame"
            ><FrameFacts
              :map="map"
              :facts="facts"
              :recognised="detail?.recognised ?? null"
              :on-camera="detail.visits[0] ?? null"
              @sensor="setSensor"
          /></TabPanel>
        </TabPanels>
      </Tabs>
    </aside>

    <section class="stage" aria-label="Sensor map">
      <MapTools v-model:tone="tone" v-model:gain="gain" v-model:marks="marks" :says="says" />
      <SensorMap
        :key="`${detail.frame.id}-${detail.picture_ready}`"
        v-model:selected="selectedId"
        :frame-id="detail.frame.id"
        :facts="facts"
        :tile-px="detail.tile_px"
        :pictured="detail.picture_ready"
        :spots="drawn"
        :tone="tone"
        :gain="gain"
        :marks="marks"
        :predicted="prediction !== null"
        :noticed="noticed"
      />
      <ApertureBar
        v-model="looksAt"
        :taken="facts.f_number"
        :total="prediction?.spots.length ?? 0"
        :noticed="prediction ? noticed.size : null"
      />
    </section>
  </div>

  <div v-else class="wait" role="status">
    <FailureNote :error="error"
      ><RouterLink :to="{ name: 'bench' }">Back to the frames</RouterLink></FailureNote
    >
    <Button
      v-if="error && detail && !job"
      label="Try again"
      severity="secondary"
      variant="outlined"
      @click="measureAgain"
    />
    <template v-if="!error || job">
      <p>{{ job ? (STEP_WORDS[job.step] ?? 'Waiting its turn') : 'Opening the frame' }}</p>
      <ProgressBar v-if="job" :value="Math.round(job.progress * 100)" aria-label="Measuring" />
    </template>
  </div>
</template>

<style scoped>
/* What can be done with the frame is the first thing that the tab key comes to. */
.view {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 420px;
  height: 100%;
}
.stage {
  order: -1;
  display: grid;
  grid-template-rows: auto minmax(0, 1fr) auto;
  min-height: 0;
  background: var(--surround);
}
aside {
  display: flex;
  flex-direction: column;
  gap: var(--space-2);
  min-height: 0;
  padding: 0.8rem var(--space-3);
  overflow: auto;
  background: var(--panel);
  border-left: 1px solid var(--line);
}
.head {
  display: flex;
  justify-content: space-between;
  align-items: start;
  gap: var(--space-2);
  position: sticky;
  top: -0.8rem;
  z-index: 2;
  margin-top: -0.8rem;
  padding-top: 0.8rem;
  background: var(--panel);
}
.onward {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem 0.8rem;
  align-items: center;
}
.names {
  min-width: 0;
}
.names h1 {
  font-size: var(--text-lead);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.verdict {
  font-size: var(--text-lead);
}
.busy {
  display: grid;
  gap: var(--space-1);
}
.sides {
  display: flex;
  flex: 1;
  flex-direction: column;
  min-height: 0;
}
.sides :deep(.p-tabpanels) {
  display: flex;
  flex: 1;
  flex-direction: column;
  min-height: 0;
  padding: var(--space-2) 0 0;
}
.sides :deep(.spots) {
  display: flex;
  flex-direction: column;
  gap: var(--space-2);
  min-height: 0;
  flex: 1;
}
.hint {
  padding: var(--space-2) 0;
}
.wait {
  display: grid;
  gap: 0.8rem;
  max-width: 480px;
  margin: 6rem auto;
  padding: 0 var(--space-3);
  text-align: center;
}
@media (max-width: 900px) {
  .view {
    grid-template-columns: 1fr;
    grid-template-rows: 55vh auto;
    height: auto;
  }
}
</style>
