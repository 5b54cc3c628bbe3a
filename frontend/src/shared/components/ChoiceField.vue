<script setup lang="ts" generic="T">
import SelectButton from 'primevue/selectbutton'
import { useId } from 'vue'

/** One of a few under its label. `open`: none may be chosen, too. */
defineProps<{ options: readonly { label: string; value: T }[]; label: string; open?: boolean }>()
const chosen = defineModel<T | null>()
const id = useId()
</script>

<template>
  <div class="field">
    <span :id="id">{{ label }}</span>
    <SelectButton
      v-model="chosen"
      :options="[...options]"
      option-label="label"
      option-value="value"
      :allow-empty="open"
      :aria-labelledby="id"
    />
  </div>
</template>

<style scoped>
.field {
  display: grid;
  gap: var(--space-1);
  justify-items: start;
}
</style>
