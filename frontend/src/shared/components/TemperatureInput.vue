<script setup lang="ts">
import InputNumber from 'primevue/inputnumber'
import { useSettings } from '@/shared/composables/useSettings'
import { toCelsius, toFahrenheit } from '@/shared/lib/units'

/** A temperature kept in degrees Celsius, entered in the chosen units. */
defineProps<{ label?: string }>()
const value = defineModel<number | null | undefined>({ required: true })
const { units } = useSettings()
</script>

<template>
  <InputNumber
    v-if="units === 'metric'"
    v-model="value"
    suffix=" °C"
    :min="-40"
    :max="60"
    :max-fraction-digits="1"
    :aria-label="label"
  />
  <InputNumber
    v-else
    :model-value="value == null ? null : toFahrenheit(value)"
    suffix=" °F"
    :min="-40"
    :max="140"
    :max-fraction-digits="1"
    :aria-label="label"
    @update:model-value="value = $event == null ? null : toCelsius($event)"
  />
</template>
