<script setup lang="ts">
import Select from 'primevue/select'
import ChoiceBar from '@/shared/components/ChoiceBar.vue'
import { computed, ref, toRef } from 'vue'
import { RouterLink } from 'vue-router'
import type { Pose } from '@/api/client'
import { useFrame } from '@/shared/composables/useFrame'
import { useMount } from '@/shared/composables/useMount'
import { count } from '@/shared/lib/format'
import { filterSpots } from '@/shared/lib/spots'
import { POSE_WORDS } from '@/shared/lib/mount'
import type { Tone } from '@/shared/lib/tones'
import MapTools from '@/shared/components/MapTools.vue'
import MountMap from '@/shared/components/MountMap.vue'
import SensorMap from '@/shared/components/SensorMap.vue'

const props = defineProps<{
  frameId: number
  worksAt: number
  grip: boolean
  against: number | null
  wall: string[]
}>()
const { detail, error } = useFrame(toRef(props, 'frameId'))
const view = ref<'picture' | 'mount'>('picture')
const views = [
  { label: 'Picture', value: 'picture' },
  { label: 'Facing the mount', value: 'mount' },
]
const pose = ref<Pose>('top_away')
const poses = (Object.keys(POSE_WORDS) as Pose[]).map((value) => ({ label: POSE_WORDS[value], value }))
const { mount, error: mountError } = useMount(
  toRef(props, 'frameId'),
  pose,
  toRef(props, 'worksAt'),
  toRef(props, 'grip'),
)
const tone = ref<Tone>('relief')
const gain = ref(2)
const marks = ref(true)
const only = ref<'work' | 'all'>('work')
const onlys = [
  { label: 'Visible in the work', value: 'work' },
  { label: 'All spots', value: 'all' },
]
const selected = ref<string | null>(null)
const map = computed(() => detail.value?.map ?? null)
const facts = computed(() => map.value?.frames[0] ?? null)
/** Marks of the target are drawn apart, and never among those that are visible in the work. */
const spots = computed(() => {
  const wall = new Set(props.wall)
  return (map.value?.spots ?? []).map((s) => (wall.has(s.id) ? { ...s, site: 'scene' as const } : s))
})
const shown = computed(() =>
  filterSpots(spots.value, { kinds: [], showsAt: only.value === 'work' ? props.worksAt : null }),
)
const nothing = new Set<string>()
</script>

<template>
  <section class="stage" aria-label="Sensor map">
    <div class="bar">
      <ChoiceBar v-model="view" :options="views" label="View" />
      <ChoiceBar v-model="only" :options="onlys" label="Spots shown" />
      <span v-if="wall.length" class="wall">{{ count(wall.length, 'mark') }} of the target: ×</span>
      <span class="links">
        <RouterLink
          v-if="against"
          :to="{ name: 'compare', params: { before: against, after: frameId }, query: { works: worksAt } }"
          >Compare with the frame before</RouterLink
        >
        <RouterLink :to="{ name: 'frame', params: { id: frameId } }">All figures</RouterLink>
      </span>
    </div>
    <MapTools
      v-if="view === 'picture'"
      v-model:tone="tone"
      v-model:gain="gain"
      v-model:marks="marks"
      :says="'As the picture shows it'"
    />
    <div v-else class="says">
      <Select
        v-model="pose"
        :options="poses"
        option-label="label"
        option-value="value"
        size="small"
        aria-label="How the camera lies"
      />
      <p>
        <template v-if="mount?.aims.length"><strong>Aim at 1:</strong> {{ mount.aims[0]?.words }}.</template>
        {{ mountError }}
      </p>
    </div>
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
      <MountMap v-else-if="mount" :spots="shown" :view="mount" />
    </template>
    <p v-else class="wait" role="status">{{ error || 'Opening the map' }}</p>
  </section>
</template>

<style scoped>
.stage {
  display: grid;
  grid-template-rows: auto auto minmax(0, 1fr);
  min-height: 0;
  background: var(--surround);
}
.bar {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem 0.8rem;
  align-items: center;
  padding: 0.45rem 0.9rem;
  background: var(--panel);
  border-bottom: 1px solid var(--line);
}
.links {
  display: flex;
  gap: var(--space-3);
  margin-left: auto;
}
.says {
  display: flex;
  gap: 0.9rem;
  align-items: center;
  padding: 0.4rem 0.9rem;
  background: var(--panel);
  border-bottom: 1px solid var(--line);
}
.wait {
  place-self: center;
  padding: var(--space-2) var(--space-3);
  background: var(--panel);
  border-radius: 4px;
}
</style>
