<script setup lang="ts" generic="T">
import SelectButton from 'primevue/selectbutton'

/** One of a few under its label. `open`: none may be chosen, too. */
defineProps<{ options: readonly { label: string; value: T }[]; label: string; open?: boolean }>()
const chosen = defineModel<T | null>()
</script>

<template>
  <label
    >{{ label
    }}<SelectButton
      v-model="chosen"
      :options="[...options]"
      option-label="label"
      option-value="value"
      :allow-empty="open"
      :aria-label="label"
  /></label>
</template>

<style scoped>
label {
  display: grid;
  gap: 0.25rem;
}
</style>
