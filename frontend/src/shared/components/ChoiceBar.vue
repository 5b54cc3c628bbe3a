<script setup lang="ts" generic="T">
import SelectButton from 'primevue/selectbutton'

/** One of a few, always one. */
defineProps<{ options: readonly { label: string; value: T }[]; label: string }>()
const chosen = defineModel<T>({ required: true })
</script>

<template>
  <SelectButton
    v-model="chosen"
    :options="[...options]"
    option-label="label"
    option-value="value"
    :allow-empty="false"
    size="small"
    :aria-label="label"
  />
</template>
