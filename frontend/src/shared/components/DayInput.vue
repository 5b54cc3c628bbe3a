<script setup lang="ts">
import DatePicker from 'primevue/datepicker'
import { computed } from 'vue'

/** A day, as 2026-05-31; null while none is chosen. What is no day is passed on, to be refused with its reason. */
const day = defineModel<string | null>()
defineProps<{ required?: boolean }>()

const two = (n: number): string => String(n).padStart(2, '0')
const iso = (d: Date): string => `${d.getFullYear()}-${two(d.getMonth() + 1)}-${two(d.getDate())}`
const chosen = computed({
  get: () => {
    const found = day.value ? new Date(`${day.value}T00:00`) : null
    return found && !Number.isNaN(found.getTime()) ? found : null
  },
  set: (now: Date | string | null | undefined) => {
    day.value = now instanceof Date ? iso(now) : now || null
  },
})
</script>

<template>
  <DatePicker
    v-model="chosen"
    date-format="yy-mm-dd"
    placeholder="year-month-day"
    show-icon
    :show-on-focus="false"
    :required="required"
  />
</template>
