<script setup lang="ts">
import InputNumber from 'primevue/inputnumber'
import ShootDrawing from '@/shared/drawings/ShootDrawing.vue'
import ChoiceBar from '@/shared/components/ChoiceBar.vue'
import { computed, ref, watch } from 'vue'
import { RouterLink } from 'vue-router'
import type { Body } from '@/api/client'
import { queries } from '@/api/queries'
import { useAsk } from '@/shared/composables/useAsk'

/** The recipe of the test frame for a body's lens; `trial` is a frame already shot, whose exposure is put right. */
const props = defineProps<{ body?: Body; trial?: number | null; open?: boolean }>()
const emit = defineEmits<{ lens: [focal_mm: number, smallest_f: number] }>()
const LENS = 'neatpatch-lens'
interface Lens {
  focal_mm: number
  smallest_f: number
}
const kept = localStorage.getItem(LENS)
const lens = ref<Lens>(kept ? (JSON.parse(kept) as Lens) : { focal_mm: 85, smallest_f: 22 })
if (props.body?.lens_focal_mm) lens.value.focal_mm = props.body.lens_focal_mm
if (props.body?.lens_smallest_f) lens.value.smallest_f = props.body.lens_smallest_f

const light = ref<'none' | 'reading' | 'trial'>('none')
const ev100 = ref<number | null>(9)
const ways = computed(() => [
  { label: 'Nothing yet', value: 'none' },
  { label: 'A light reading', value: 'reading' },
  ...(props.trial ? [{ label: 'The last frame', value: 'trial' }] : []),
])
const { value: plan, error } = useAsk(
  () => {
    const now = lens.value
    if (!now.focal_mm || !now.smallest_f) return null
    return queries.shootPlan({
      ...now,
      ...(light.value === 'reading' && ev100.value != null ? { ev100: ev100.value } : {}),
      ...(light.value === 'trial' && props.trial ? { trial_frame_id: props.trial } : {}),
    })
  },
  { keeps: true },
)

watch(
  lens,
  (now) => {
    localStorage.setItem(LENS, JSON.stringify(now))
    if (now.focal_mm && now.smallest_f) emit('lens', now.focal_mm, now.smallest_f)
  },
  { deep: true },
)
</script>

<template>
  <details class="recipe" :open="open">
    <summary>How to shoot it</summary>
    <div class="lens">
      <label
        >Lens<InputNumber v-model="lens.focal_mm" suffix=" mm" :min="1" :max="3000" size="small"
      /></label>
      <label
        >Smallest opening<InputNumber
          v-model="lens.smallest_f"
          prefix="f/"
          :min="1"
          :max="128"
          :max-fraction-digits="1"
          size="small"
      /></label>
      <RouterLink :to="{ name: 'light', query: { focal: lens.focal_mm, f: lens.smallest_f } }"
        >Light page</RouterLink
      >
    </div>
    <div class="lens">
      <label>Exposure from<ChoiceBar v-model="light" :options="ways" label="Exposure from" /></label>
      <label v-if="light === 'reading'"
        >EV at ISO 100<InputNumber v-model="ev100" :min="-6" :max="22" :max-fraction-digits="1" size="small"
      /></label>
    </div>
    <p v-if="error" role="alert">{{ error }}</p>
    <ShootDrawing v-if="plan" class="picture" :f="plan.f_number" />
    <ol v-if="plan">
      <li v-for="step in plan.steps" :key="step">{{ step }}</li>
    </ol>
  </details>
</template>

<style scoped>
.picture {
  height: 130px;
  margin: var(--space-2) 0;
}
.lens {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2) var(--space-3);
  align-items: end;
  margin-bottom: var(--space-2);
}
label {
  display: grid;
  gap: var(--space-1);
  font-size: var(--text-small);
}
label :deep(.p-inputnumber-input) {
  width: 6rem;
}
ol {
  margin: var(--space-2) 0 0;
  padding-left: var(--space-3);
  display: grid;
  gap: var(--space-1);
}
</style>
