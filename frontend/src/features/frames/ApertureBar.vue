<script setup lang="ts">
import Button from 'primevue/button'
import Slider from 'primevue/slider'
import { computed } from 'vue'
import { LOOKS_AT, nearestStop } from '@/shared/lib/apertures'
import { fStop } from '@/shared/lib/format'

const props = defineProps<{ taken: number | null; noticed: number | null; total: number }>()
const looksAt = defineModel<number | null>({ required: true })
const place = computed({
  get: () => nearestStop(looksAt.value ?? props.taken),
  set: (i: number) => {
    looksAt.value = LOOKS_AT[i] ?? null
  },
})
</script>

<template>
  <div v-if="taken !== null" class="bar">
    <span id="looks-label" class="name">Preview at</span>
    <Slider v-model="place" :min="0" :max="LOOKS_AT.length - 1" :step="1" aria-labelledby="looks-label" />
    <strong class="stop">{{ fStop(looksAt ?? taken) }}</strong>
    <span class="says" role="status">
      <template v-if="looksAt === null">as taken</template>
      <template v-else-if="noticed !== null"
        >worked out: <strong>{{ noticed }} of {{ total }}</strong> visible</template
      >
    </span>
    <Button
      v-if="looksAt !== null"
      label="As taken"
      size="small"
      severity="secondary"
      variant="text"
      @click="looksAt = null"
    />
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  align-items: center;
  gap: var(--space-3);
  min-height: 2.9rem;
  padding: var(--space-1) var(--space-3);
  background: var(--panel);
  border-top: 1px solid var(--line);
}
.bar :deep(.p-slider) {
  width: 200px;
}
.stop {
  min-width: 3.2rem;
}
.says {
  color: var(--ink-soft);
}
</style>
