<script setup lang="ts">
import { computed } from 'vue'
import type { FrameDetail, SpotMap } from '@/api/client'
import { day, exposure, fStop } from '@/shared/lib/format'
import SensorForm from './SensorForm.vue'

const props = defineProps<{
  map: SpotMap
  facts: SpotMap['frames'][number]
  recognised: FrameDetail['recognised']
  onCamera: FrameDetail['visits'][number] | null
}>()
const KNOWN_BY = {
  sensor: 'as the photosites’ own pattern shows',
  serial: 'by the serial number in its file',
  name: 'by the camera name in its file',
  visit: 'whose visit waits for a frame',
} as const
defineEmits<{ sensor: [width: number, height: number] }>()

const SOURCE_WORDS = {
  fitted: 'measured on this frame',
  given: 'as given',
  assumed: 'assumed: too few sharp specks',
}
const rows = computed(() => {
  const f = props.facts
  const o = props.map.optics
  return [
    ['Camera', f.camera ?? 'unknown'],
    ['Taken', day(f.taken_at)],
    ['File', `${f.format}, ${f.width_px} × ${f.height_px}`],
    ['Aperture', f.f_number === null ? 'unknown' : fStop(f.f_number)],
    ['ISO', f.iso === null ? 'unknown' : String(f.iso)],
    ['Exposure', exposure(f.exposure_s)],
    ['Focal length', f.focal_length_mm === null ? 'unknown' : `${f.focal_length_mm.toFixed(0)} mm`],
    ['Sensor', f.sensor_mm ? `${f.sensor_mm[0]} × ${f.sensor_mm[1]} mm` : 'size unknown'],
    ['Pixel pitch', f.pitch_um === null ? 'unknown' : `${f.pitch_um.toFixed(2)} µm`],
    [
      'Filter stack height',
      o.height_mm === null ? 'unknown' : `${o.height_mm.toFixed(2)} mm (${SOURCE_WORDS[o.height_source]})`,
    ],
    ['Shaded area', `${(props.map.summary.covered_ppm / 10000).toFixed(3)} %`],
  ]
})
const spoken = computed(() => [...props.map.checks].sort((a, b) => rank(a.level) - rank(b.level)))
const rank = (level: string): number => ['retake', 'note', 'ok'].indexOf(level)
const SIGNS = { retake: 'pi-times-circle', note: 'pi-info-circle', ok: 'pi-check' }
const WORDS = { retake: 'Shoot again', note: 'Note', ok: 'Fine' }
</script>

<template>
  <div class="facts">
    <h2>Checks</h2>
    <ul class="checks">
      <li v-for="c in spoken" :key="c.code" :class="c.level">
        <i class="pi" :class="SIGNS[c.level]" aria-hidden="true" />
        <div>
          <strong>{{ WORDS[c.level] }}.</strong> {{ c.message }} <em v-if="c.remedy">{{ c.remedy }}</em>
        </div>
      </li>
      <li v-for="note in facts.notes" :key="note" class="note">
        <i class="pi pi-info-circle" aria-hidden="true" />
        <div><strong>Note.</strong> The file: {{ note }}.</div>
      </li>
    </ul>
    <h2>Sensor size</h2>
    <p v-if="onCamera">
      The size is that of
      <RouterLink :to="{ name: 'body', params: { id: onCamera.body_id }, query: { edit: 'yes' } }">{{
        onCamera.body_name
      }}</RouterLink>; change it there, and all its frames are measured again.
    </p>
    <SensorForm v-else :size="facts.sensor_mm ?? null" @sensor="(w, h) => $emit('sensor', w, h)" />
    <h2>Frame</h2>
    <p v-if="recognised" class="known">
      Taken by
      <RouterLink :to="`/bodies/${recognised.body_id}`">{{ recognised.name }}</RouterLink>,
      {{ KNOWN_BY[recognised.by] }}.
    </p>
    <dl>
      <template v-for="[name, value] in rows" :key="name"
        ><dt>{{ name }}</dt>
        <dd>{{ value }}</dd></template
      >
    </dl>
  </div>
</template>

<style scoped>
.facts {
  display: grid;
  gap: var(--space-2);
}
.checks {
  display: grid;
  gap: var(--space-2);
  margin: 0;
  padding: 0;
  list-style: none;
}
.checks li {
  display: grid;
  grid-template-columns: 1.3rem 1fr;
  gap: var(--space-2);
}
.checks em {
  display: block;
  font-style: normal;
  font-weight: 600;
}
.retake {
  color: var(--stop);
}
.note .pi {
  color: var(--warn);
}
.ok .pi {
  color: var(--good);
}
.checks .pi {
  margin-top: var(--space-1);
}
dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: var(--space-1) var(--space-3);
  margin: 0;
}
dt {
  color: var(--ink-soft);
}
dd {
  margin: 0;
}
</style>
