<script setup lang="ts">
import Button from 'primevue/button'
import { computed } from 'vue'
import type { Visit } from '@/api/client'
import { count, day } from '@/shared/lib/format'
import { VERDICT_WORDS } from '@/shared/lib/steps'

/** How a closed visit ended, in place of a next move. */
const props = defineProps<{ visit: Visit; busy: boolean }>()
defineEmits<{ reopen: [] }>()
const frames = computed(() =>
  props.visit.trail.flatMap((i) => (i.frame?.ready && i.frame.fit ? [i.frame] : [])),
)
const ends = computed(() => {
  const first = frames.value[0]?.relevant
  const last = frames.value[frames.value.length - 1]?.relevant
  if (first == null || last == null) return ''
  return frames.value.length < 2
    ? `${count(last, 'spot')} visible in the work.`
    : `${count(first, 'spot')} visible at first, ${last || 'none'} at the end.`
})
const steps = computed(() => props.visit.trail.filter((i) => i.step).length)
</script>

<template>
  <section class="ended" aria-label="Verdict">
    <p class="soft">This visit is closed</p>
    <h1>{{ (VERDICT_WORDS[visit.verdict ?? ''] ?? '').replace(/^./, (c) => c.toUpperCase()) }}</h1>
    <p v-if="ends">{{ ends }} {{ count(steps, 'step') }} taken.</p>
    <p v-if="visit.note">{{ visit.note }}</p>
    <p v-if="visit.until">Postponed to {{ day(visit.until) }}.</p>
    <p v-if="visit.look_again_on">Look again on {{ day(visit.look_again_on) }}.</p>
    <Button
      class="works"
      label="Reopen"
      icon="pi pi-undo"
      severity="secondary"
      variant="outlined"
      :disabled="busy"
      @click="$emit('reopen')"
    />
  </section>
</template>

<style scoped>
.ended {
  display: grid;
  gap: var(--space-2);
  justify-items: start;
}
</style>
