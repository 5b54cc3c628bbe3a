<script setup lang="ts">
import Button from 'primevue/button'
import Popover from 'primevue/popover'
import Select from 'primevue/select'
import ChoiceBar from '@/shared/components/ChoiceBar.vue'
import { computed, ref, toRef, watch } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import type { Pose, Visit } from '@/api/client'
import { queries } from '@/api/queries'
import { useAsk } from '@/shared/composables/useAsk'
import { useFrame } from '@/shared/composables/useFrame'
import { useMount } from '@/shared/composables/useMount'
import { filterSpots } from '@/shared/lib/spots'
import { POSE_WORDS } from '@/shared/lib/mount'
import type { Tone } from '@/shared/lib/tones'
import MapLegend from '@/shared/components/MapLegend.vue'
import MapTools from '@/shared/components/MapTools.vue'
import MountMap from '@/shared/components/MountMap.vue'
import SensorMap from '@/shared/components/SensorMap.vue'
import SpotDetail from '@/shared/components/SpotDetail.vue'
import SpotTable from '@/shared/components/SpotTable.vue'
import { framesOf, lifeWords } from './lives'

const props = defineProps<{ visit: Visit; frameId: number }>()
const router = useRouter()
const { detail, error } = useFrame(toRef(props, 'frameId'))
const worksAt = computed(() => props.visit.works_at)
const grip = computed(() => props.visit.body.access !== 'digital_back')
const view = ref<'picture' | 'mount'>('picture')
const views = [
  { label: 'Picture', value: 'picture' },
  { label: 'Facing the mount', value: 'mount' },
]
const pose = ref<Pose>('top_away')
const poses = (Object.keys(POSE_WORDS) as Pose[]).map((value) => ({ label: POSE_WORDS[value], value }))
const { mount, error: mountError } = useMount(toRef(props, 'frameId'), pose, worksAt, grip)
const tone = ref<Tone>('relief')
const gain = ref(2)
const marks = ref(true)
const only = ref<'work' | 'all'>('work')
const onlys = computed(() => [
  { label: `Visible at f/${worksAt.value}`, value: 'work' as const },
  { label: 'All', value: 'all' as const },
])
const listed = ref(false)
const explained = ref(false)
const display = ref<InstanceType<typeof Popover> | null>(null)
const selected = ref<string | null>(null)
watch(
  () => props.frameId,
  () => {
    selected.value = null
  },
)

const frames = computed(() => framesOf(props.visit))
const here = computed(() => frames.value.find((f) => f.frameId === props.frameId) ?? null)
const map = computed(() => detail.value?.map ?? null)
const facts = computed(() => map.value?.frames[0] ?? null)
/** Marks of the target are drawn apart, and never among those that are visible in the work. */
const spots = computed(() => {
  const wall = new Set(here.value?.wall ?? [])
  return (map.value?.spots ?? []).map((s) => (wall.has(s.id) ? { ...s, site: 'scene' as const } : s))
})
const shown = computed(() =>
  filterSpots(spots.value, { kinds: [], showsAt: only.value === 'work' ? worksAt.value : null }),
)
const spot = computed(() => spots.value.find((s) => s.id === selected.value) ?? null)
const { value: lives } = useAsk(() =>
  spot.value && here.value ? queries.lives(props.visit.id, here.value.entryId, props.visit.version) : null,
)
const life = computed(() => {
  const found = spot.value && spot.value.site !== 'scene' ? lives.value?.[spot.value.id] : null
  return found ? lifeWords(found, frames.value) : []
})
/** Any two fit frames: the one shown with each other one, and the first with the last. */
const pairs = computed(() => {
  const fit = frames.value.filter((f) => f.fit)
  const [first, last] = [fit[0], fit[fit.length - 1]]
  const at = fit.findIndex((f) => f.frameId === props.frameId)
  const others = at < 0 ? [] : fit.filter((_, i) => i !== at)
  return [
    ...(first && last && first !== last
      ? [{ label: 'First against last', pair: [first.frameId, last.frameId] }]
      : []),
    ...others.map((o) => ({
      label: `This one with ${o.label.charAt(0).toLowerCase()}${o.label.slice(1)}`,
      pair: fit.indexOf(o) < at ? [o.frameId, props.frameId] : [props.frameId, o.frameId],
    })),
  ]
})
const nothing = new Set<string>()

function compare([before, after]: number[]): void {
  void router.push({ name: 'compare', params: { before, after }, query: { works: worksAt.value } })
}
</script>

<template>
  <section class="stage" aria-label="Sensor map">
    <div class="bar" role="toolbar" aria-label="Map">
      <ChoiceBar v-model="view" :options="views" label="View" />
      <ChoiceBar v-model="only" :options="onlys" label="Spots shown" />
      <Select
        v-if="view === 'mount'"
        v-model="pose"
        :options="poses"
        option-label="label"
        option-value="value"
        size="small"
        aria-label="How the camera lies"
        class="pose"
      />
      <Button
        v-else
        label="Display"
        icon="pi pi-sliders-h"
        size="small"
        severity="secondary"
        variant="text"
        aria-haspopup="dialog"
        @click="display?.toggle($event)"
      />
      <Popover ref="display" :pt="{ root: { 'aria-label': 'Display' } }"
        ><MapTools v-model:tone="tone" v-model:gain="gain" v-model:marks="marks" says="" upright
      /></Popover>
      <Button
        label="List"
        icon="pi pi-list"
        size="small"
        severity="secondary"
        :variant="listed ? undefined : 'text'"
        :aria-pressed="listed"
        @click="listed = !listed"
      />
      <Button
        label="Legend"
        icon="pi pi-info-circle"
        size="small"
        severity="secondary"
        :variant="explained ? undefined : 'text'"
        :aria-pressed="explained"
        @click="explained = !explained"
      />
      <span class="links">
        <Select
          v-if="pairs.length"
          :model-value="null"
          :options="pairs"
          option-label="label"
          option-value="pair"
          size="small"
          placeholder="Compare"
          aria-label="Compare with"
          @update:model-value="compare"
        />
        <RouterLink :to="{ name: 'frame', params: { id: frameId }, query: { figures: 'yes' } }"
          >Figures</RouterLink
        >
      </span>
    </div>
    <div class="field">
      <template v-if="map && facts && detail">
        <SensorMap
          v-if="view === 'picture'"
          :key="`${detail.frame.id}-${detail.picture_ready}`"
          v-model:selected="selected"
          :frame-id="detail.frame.id"
          :facts="facts"
          :tile-px="detail.tile_px"
          :pictured="detail.picture_ready"
          :spots="shown"
          :tone="tone"
          :gain="gain"
          :marks="marks"
          :predicted="false"
          :noticed="nothing"
        />
        <MountMap v-else-if="mount" v-model:selected="selected" :spots="shown" :view="mount" choosable />
        <p class="caption">
          <template v-if="view === 'picture'">As the picture shows it</template>
          <template v-else>
            {{ mount?.sentence }}
            <template v-if="mount?.aims.length"
              ><strong>Aim at 1:</strong> {{ mount.aims[0]?.words }}.</template
            >
            {{ mountError }}
          </template>
        </p>
        <MapLegend v-if="explained" class="legend" :spots="spots" @close="explained = false" />
      </template>
      <p v-else class="wait" role="status">{{ error || 'Opening the map' }}</p>
    </div>
    <aside v-if="map && facts && detail && (listed || spot)" class="beside" aria-label="Spots">
      <div v-if="spot" class="one">
        <Button
          icon="pi pi-times"
          size="small"
          severity="secondary"
          variant="text"
          aria-label="Close the spot"
          class="close"
          @click="selected = null"
        />
        <SpotDetail
          :spot="spot"
          :frame-id="detail.frame.id"
          :facts="facts"
          :tile-px="detail.tile_px"
          :gain="gain"
        >
          <ul v-if="life.length" class="life">
            <li v-for="line in life" :key="line">{{ line }}</li>
          </ul>
        </SpotDetail>
      </div>
      <SpotTable
        v-if="listed"
        v-model:selected="selected"
        :spots="shown"
        :total="map.spots.length"
        :fit="map.fit"
      />
    </aside>
  </section>
</template>

<style scoped>
.stage {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
  grid-template-columns: minmax(0, 1fr) auto;
  min-height: 0;
  background: var(--surround);
}
.bar {
  display: flex;
  flex-wrap: wrap;
  grid-column: 1 / -1;
  gap: var(--space-1) var(--space-2);
  align-items: center;
  padding: var(--space-2) var(--space-3);
  background: var(--panel);
  border-bottom: 1px solid var(--line);
}
.pose {
  max-width: 175px;
}
.links {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-1) var(--space-3);
  align-items: center;
  margin-left: auto;
}
.field {
  position: relative;
  display: grid;
  min-height: 0;
}
.caption {
  position: absolute;
  right: var(--space-2);
  bottom: var(--space-2);
  max-width: 60%;
  padding: var(--space-1) var(--space-2);
  font-size: var(--text-small);
  background: var(--panel);
  border-radius: 4px;
}
.legend {
  position: absolute;
  left: var(--space-2);
  top: var(--space-2);
}
.beside {
  display: flex;
  flex-direction: column;
  gap: var(--space-2);
  width: 350px;
  min-height: 0;
  padding: var(--space-2);
  overflow: auto;
  background: var(--panel);
  border-left: 1px solid var(--line);
}
.one {
  position: relative;
}
.close {
  position: absolute;
  right: 0;
  top: 0;
  z-index: 1;
}
.life {
  margin: var(--space-2) 0 0;
  padding-left: var(--space-3);
  font-size: var(--text-small);
}
.wait {
  place-self: center;
  padding: var(--space-2) var(--space-3);
  background: var(--panel);
  border-radius: 4px;
}
@media (max-width: 900px) {
  .stage {
    grid-template-columns: minmax(0, 1fr);
    grid-template-rows: auto minmax(0, 1fr) auto;
  }
  .beside {
    width: auto;
    max-height: 45vh;
    border-left: 0;
  }
}
@media (max-width: 700px) {
  .stage {
    grid-template-columns: minmax(0, 1fr);
    grid-template-rows: auto minmax(300px, 60vh) auto;
  }
  .beside {
    width: auto;
    max-height: 70vh;
    border-left: 0;
  }
}
</style>
