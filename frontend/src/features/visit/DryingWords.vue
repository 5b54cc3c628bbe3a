<script setup lang="ts">
import InputNumber from 'primevue/inputnumber'
import { ref } from 'vue'
import { queries } from '@/api/queries'
import { useAsk } from '@/shared/composables/useAsk'
import { useSettings } from '@/shared/composables/useSettings'
import { spanWords } from '@/shared/lib/format'

/** How fluid dries in this room, what is assumed of the film, and whether a cold camera may be opened. */
const props = defineProps<{
  temperature: number | null | undefined
  humidity: number | null | undefined
  camera: number | null | undefined
}>()
const { celsius } = useSettings()
const film = ref({ thin_um: 3, thick_um: 15, still_m_s: 0.05, moving_m_s: 0.2 })
const { value: plan, error } = useAsk(
  () => {
    const { temperature, humidity, camera } = props
    if (temperature == null || humidity == null) return null
    return queries.dryPlan({ temperature, humidity, camera_c: camera ?? undefined, ...film.value })
  },
  { keeps: true },
)

const FILM = [
  { key: 'thin_um', label: 'Film from', suffix: ' µm', max: 500 },
  { key: 'thick_um', label: 'to', suffix: ' µm', max: 500 },
  { key: 'still_m_s', label: 'Air from', suffix: ' m/s', max: 10 },
  { key: 'moving_m_s', label: 'to', suffix: ' m/s', max: 10 },
] as const
</script>

<template>
  <div v-if="plan || error" class="drying" :class="plan?.verdict">
    <p v-if="error" role="alert">{{ error }}</p>
    <template v-if="plan">
      <p>
        <strong>For fluid:</strong> {{ plan.why }}
        <span class="soft"
          >A thin film dries in {{ spanWords(60 * plan.minutes.least, 60 * plan.minutes.most) }},
          {{ plan.relative_rate.toFixed(2) }} times as fast as at {{ celsius(20) }} and 45 %.</span
        >
      </p>
      <p v-if="plan.camera" :class="{ dew: plan.camera.dew }">
        <strong>Camera:</strong> {{ plan.camera.why }}
        <span class="soft">Dew point {{ celsius(plan.dew_point_c) }}.</span>
      </p>
      <p v-else class="soft">Dew point {{ celsius(plan.dew_point_c) }}: let a colder camera warm up first.</p>
    </template>
    <details>
      <summary>Assumed of the film and the air</summary>
      <div class="film">
        <label v-for="f in FILM" :key="f.key"
          >{{ f.label
          }}<InputNumber
            v-model="film[f.key]"
            :suffix="f.suffix"
            :min="0"
            :max="f.max"
            :max-fraction-digits="2"
            size="small"
        /></label>
      </div>
    </details>
  </div>
</template>

<style scoped>
.drying {
  display: grid;
  gap: var(--space-1);
  width: 100%;
  padding-left: var(--space-2);
  border-left: 4px solid var(--good);
}
.drying.slow {
  border-color: var(--warn);
}
.drying.no {
  border-color: var(--stop);
}
.dew {
  color: var(--stop);
}
.film {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2) var(--space-3);
  margin-top: var(--space-1);
}
label {
  display: grid;
  gap: var(--space-1);
  font-size: var(--text-small);
}
label :deep(.p-inputnumber-input) {
  width: 5.5rem;
}
</style>
