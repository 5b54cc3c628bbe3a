<script setup lang="ts">
import InputNumber from 'primevue/inputnumber'
import { useSettings } from '@/shared/composables/useSettings'
import { toInches, toMm } from '@/shared/lib/units'

/** A length kept in millimetres, entered in the chosen units. */
defineProps<{ min?: number; max?: number; label?: string }>()
const value = defineModel<number | null | undefined>({ required: true })
const { units } = useSettings()
</script>

<template>
  <InputNumber
    v-if="units === 'metric'"
    v-model="value"
    suffix=" mm"
    :min="min"
    :max="max"
    :max-fraction-digits="2"
    :aria-label="label"
  />
  <InputNumber
    v-else
    :model-value="value == null ? null : toInches(value)"
    suffix=" in"
    :min="min == null ? undefined : toInches(min)"
    :max="max == null ? undefined : toInches(max)"
    :max-fraction-digits="3"
    :aria-label="label"
    @update:model-value="value = $event == null ? null : toMm($event)"
  />
</template>
