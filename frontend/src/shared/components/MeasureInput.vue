<script setup lang="ts">
import InputNumber from 'primevue/inputnumber'
import { computed } from 'vue'
import { useSettings } from '@/shared/composables/useSettings'
import { MEASURES, type Measure } from '@/shared/lib/units'

/** A length kept in millimetres, or a temperature in degrees Celsius, entered in the chosen units. */
const props = defineProps<{ of: Measure; min?: number; max?: number; label?: string }>()
const kept = defineModel<number | null | undefined>({ required: true })
const { units } = useSettings()
const unit = computed(() => MEASURES[props.of][units.value])
const shown = (value: number | null | undefined): number | undefined =>
  value == null ? undefined : unit.value.from(value)
</script>

<template>
  <InputNumber
    :key="units"
    :model-value="shown(kept) ?? null"
    :suffix="` ${unit.suffix}`"
    :min="shown(min)"
    :max="shown(max)"
    :max-fraction-digits="unit.digits"
    :aria-label="label"
    @update:model-value="kept = $event == null ? null : unit.to($event)"
  />
</template>
