<script setup lang="ts">
import ChoiceBar from '@/shared/components/ChoiceBar.vue'
import Slider from 'primevue/slider'
import ToggleSwitch from 'primevue/toggleswitch'
import { LEAST_GAIN, MOST_GAIN, type Tone } from '@/shared/lib/tones'

/** `upright`: one below the other, as in a small window. */
defineProps<{ says: string; upright?: boolean }>()
const tone = defineModel<Tone>('tone', { required: true })
const gain = defineModel<number>('gain', { required: true })
const marks = defineModel<boolean>('marks', { required: true })
const tones: { label: string; value: Tone }[] = [
  { label: 'Original', value: 'shot' },
  { label: 'Relief', value: 'relief' },
]
</script>

<template>
  <div class="tools" :class="{ upright }">
    <ChoiceBar v-model="tone" :options="tones" label="Tone" />
    <label class="gain" :class="{ off: tone === 'shot' }">
      <span id="gain-label">Gain × {{ gain.toFixed(1) }}</span>
      <Slider
        v-model="gain"
        :min="LEAST_GAIN"
        :max="MOST_GAIN"
        :step="0.5"
        :disabled="tone === 'shot'"
        aria-labelledby="gain-label"
      />
    </label>
    <label class="switch"><ToggleSwitch v-model="marks" input-id="marks" /> Outlines</label>
    <span v-if="says" class="says">{{ says }}</span>
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: var(--space-2) var(--space-4);
  padding: var(--space-2) var(--space-3);
  background: var(--panel);
  border-bottom: 1px solid var(--line);
}
.tools.upright {
  flex-direction: column;
  align-items: start;
  padding: 0;
  border: 0;
}
.gain {
  display: grid;
  grid-template-columns: 5.5rem 140px;
  align-items: center;
  gap: var(--space-2);
}
.gain.off {
  color: var(--ink-soft);
}
.switch {
  display: flex;
  align-items: center;
  gap: var(--space-2);
}
.says {
  margin-left: auto;
  color: var(--ink-soft);
}
</style>
