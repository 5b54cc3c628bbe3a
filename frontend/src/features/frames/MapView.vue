<script setup lang="ts">
import Button from 'primevue/button'
import ProgressBar from 'primevue/progressbar'
import { computed, defineAsyncComponent, ref, toRef, watch } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import Select from 'primevue/select'
import Tab from 'primevue/tab'
import TabList from 'primevue/tablist'
import TabPanel from 'primevue/tabpanel'
import TabPanels from 'primevue/tabpanels'
import Tabs from 'primevue/tabs'
import ApertureBar from './ApertureBar.vue'
import CameraQuestion from './CameraQuestion.vue'
import FrameFacts from './FrameFacts.vue'
import FirstPath from './FirstPath.vue'
import FrameMenu from './FrameMenu.vue'
import MoreFrames from './MoreFrames.vue'
import ApertureEntry from '@/shared/components/ApertureEntry.vue'
import BackLink from '@/shared/components/BackLink.vue'
import FailureNote from '@/shared/components/FailureNote.vue'
import MapTools from '@/shared/components/MapTools.vue'
import SensorMap from '@/shared/components/SensorMap.vue'
import SpotDetail from '@/shared/components/SpotDetail.vue'
import SpotFilters from './SpotFilters.vue'
import VerdictBand from './VerdictBand.vue'
import { useBodyNames } from '@/shared/composables/useBodyNames'
import { useFrame } from '@/shared/composables/useFrame'
import { STEP_WORDS } from '@/shared/composables/useUploads'
import { useFrameDelete } from './useFrameDelete'
import { usePrediction } from './usePrediction'
import { useWorksAt } from './useWorksAt'
import { verdictOf } from './verdict'
import { asPredicted, noticedIn, WORKING } from '@/shared/lib/apertures'
import { count } from '@/shared/lib/format'
import { filterSpots, type SpotFilter } from '@/shared/lib/spots'
import { setTitle } from '@/shared/lib/title'
import type { Tone } from '@/shared/lib/tones'

/** Its many rows are made after the page, not with it. */
const SpotTable = defineAsyncComponent(() => import('@/shared/components/SpotTable.vue'))
const props = defineProps<{ id: number }>()
const { detail, error, job, setSensor, load, follow, measureAgain } = useFrame(toRef(props, 'id'))
const { worksAt, setWorksAt } = useWorksAt(() => void load())
const working = WORKING.map((n) => ({ label: `f/${n}`, value: n }))

const tone = ref<Tone>('relief')
const gain = ref(2)
const marks = ref(true)
const filter = ref<SpotFilter>({ kinds: [], showsAt: null })
const route = useRoute()
/** A link may lead to one spot, or to the figures. */
const selectedId = ref<string | null>(route.query.spot ? String(route.query.spot) : null)
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
const notes = computed(() => map.value?.checks.filter((c) => c.level !== 'ok').length ?? 0)
const verdict = computed(() => (map.value ? verdictOf(map.value, worksAt.value) : null))
/** Tables, widths and checks stand behind one button; a chosen spot shows itself. */
const figures = ref(route.query.figures === 'yes')
const moreFrames = ref<InstanceType<typeof MoreFrames> | null>(null)
/** Until a camera is known, the way from the first map on is shown. */
const { known: cameras } = useBodyNames()
const first = computed(() => cameras.value?.length === 0 && detail.value?.visits.length === 0)
const openVisit = computed(() => detail.value?.visits.find((v) => v.state === 'open') ?? null)

watch(detail, (now) => now && setTitle(now.frame.name, 'frame'), { immediate: true })

const router = useRouter()
watch(selectedId, (spot) => {
  const query = { ...route.query, spot: spot ?? undefined }
  if (route.name === 'frame') void router.replace({ query })
})
const { deleteFrame, error: notDeleted } = useFrameDelete()
async function remove(): Promise<void> {
  if (detail.value && (await deleteFrame(props.id, detail.value.frame.name)))
    await router.replace({ name: 'bench' })
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
  <div v-if="map && facts && detail && verdict" class="view" :class="{ figures: figures || selected }">
    <div class="top">
      <VerdictBand :verdict="verdict">
        <template #rest>
          <span class="file">{{ detail.frame.name }}</span>
          <MoreFrames
            ref="moreFrames"
            :frame-id="detail.frame.id"
            :members="map.frames.length"
            @measuring="follow"
          />
        </template>
        <label v-if="map.summary.relevant !== null && map.fit" class="works"
          ><span class="works-words">I work at</span>
          <Select
            :model-value="worksAt"
            :options="working"
            option-label="label"
            option-value="value"
            size="small"
            aria-label="I work at"
            @update:model-value="setWorksAt"
        /></label>
        <RouterLink
          v-if="openVisit"
          class="main"
          :to="{ name: 'visit', params: { id: openVisit.visit_id } }"
          >{{ verdict.tone === 'shows' ? 'Get advice' : `Visit of ${openVisit.body_name}` }}</RouterLink
        >
        <RouterLink
          v-for="v in openVisit ? [] : detail.visits"
          :key="v.visit_id"
          :to="{ name: 'visit', params: { id: v.visit_id } }"
          >Visit of {{ v.body_name }}</RouterLink
        >
        <RouterLink
          v-if="!detail.visits.length && !detail.frame.asks_camera"
          :class="{ main: verdict.tone === 'shows' }"
          :to="{ name: 'bodies', query: { frame: id } }"
          >{{ verdict.tone === 'shows' ? 'Get advice' : 'Begin a visit' }}</RouterLink
        >
        <Button
          :label="notes ? `Figures, ${count(notes, 'note')}` : 'Figures'"
          icon="pi pi-table"
          size="small"
          severity="secondary"
          variant="outlined"
          :aria-expanded="figures"
          @click="figures = !figures"
        />
        <FrameMenu
          :frame-id="detail.frame.id"
          :alone="map.frames.length < 2"
          @delete="remove"
          @confirm="moreFrames?.choose()"
        />
      </VerdictBand>
      <FirstPath v-if="first" :verdict="verdict" :frame-id="id" />
      <ApertureEntry
        v-if="map.summary.relevant === null && !job"
        :frame-id="detail.frame.id"
        @measuring="follow"
      />
      <CameraQuestion v-if="detail.frame.asks_camera" :key="id" :detail="detail" @alone="load" />
      <div v-if="job" class="busy" role="status">
        {{ STEP_WORDS[job.step] ?? 'Measuring again' }}
        <ProgressBar
          :value="Math.round(job.progress * 100)"
          :show-value="false"
          aria-label="Measuring again"
        />
      </div>
      <FailureNote :error="error || notDeleted" />
    </div>

    <section class="stage" aria-label="Sensor map">
      <div class="map-tools">
        <BackLink :home="{ name: 'bench' }" home-words="Bench" />
        <MapTools v-model:tone="tone" v-model:gain="gain" v-model:marks="marks" :says="says" />
      </div>
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

    <aside v-if="figures || selected" aria-label="Measurements">
      <SpotDetail
        v-if="selected"
        :spot="selected"
        :frame-id="detail.frame.id"
        :facts="facts"
        :tile-px="detail.tile_px"
        :gain="gain"
      />
      <Tabs v-if="figures" v-model:value="side" lazy class="sides">
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
      <Button
        v-else
        label="All spots and figures"
        size="small"
        severity="secondary"
        variant="text"
        @click="figures = true"
      />
    </aside>
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
.view {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  grid-template-rows: auto minmax(0, 1fr);
  height: 100%;
}
.view.figures {
  grid-template-columns: minmax(0, 1fr) 420px;
}
.top {
  grid-column: 1 / -1;
}
.works {
  display: flex;
  gap: var(--space-2);
  align-items: center;
}
.main {
  padding: var(--space-2) var(--space-3);
  font-weight: 600;
  color: var(--panel);
  text-decoration: none;
  background: var(--accent);
  border-radius: 4px;
}
.stage {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr) auto;
  min-height: 0;
  background: var(--surround);
}
.map-tools {
  display: flex;
  align-items: center;
  padding-left: var(--space-3);
  background: var(--panel);
  border-bottom: 1px solid var(--line);
}
.map-tools > :last-child {
  flex: 1;
  border: 0;
}
aside {
  display: flex;
  flex-direction: column;
  gap: var(--space-2);
  min-height: 0;
  padding: var(--space-2) var(--space-3);
  overflow: auto;
  background: var(--panel);
  border-left: 1px solid var(--line);
}
.busy {
  display: grid;
  gap: var(--space-1);
  padding: var(--space-2) var(--space-3);
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
.wait {
  display: grid;
  gap: var(--space-3);
  max-width: 480px;
  margin: var(--space-6) auto;
  padding: 0 var(--space-3);
  text-align: center;
}
@media (max-width: 900px) {
  /* The map comes right after the verdict; what is asked and the figures follow it. */
  .view,
  .view.figures {
    display: flex;
    flex-direction: column;
    height: auto;
  }
  .top {
    display: contents;
  }
  .top > :not(:first-child),
  aside {
    order: 1;
  }
  .stage {
    grid-template-rows: auto 46vh auto;
  }
  aside {
    border-left: 0;
  }
}
@media (max-width: 560px) {
  .map-tools {
    padding: 0;
  }
  .map-tools > :first-child,
  .map-tools :deep(.says),
  .map-tools :deep(.gain),
  .works-words {
    display: none;
  }
}
</style>
