<script setup lang="ts">
import Button from 'primevue/button'
import { ref } from 'vue'
import MeasureInput from '@/shared/components/MeasureInput.vue'

const props = defineProps<{ size: [number, number] | null }>()
const emit = defineEmits<{ sensor: [width: number, height: number] }>()
const width = ref<number | null>(props.size ? Math.max(...props.size) : null)
const height = ref<number | null>(props.size ? Math.min(...props.size) : null)
const COMMON: [number, number][] = [
  [43.8, 32.9],
  [36, 24],
  [23.5, 15.6],
  [22.3, 14.9],
  [17.3, 13],
  [13.2, 8.8],
]

function choose(size: [number, number]): void {
  ;[width.value, height.value] = size
  apply()
}

function apply(): void {
  if (width.value && height.value) emit('sensor', width.value, height.value)
}
</script>

<template>
  <form class="form" @submit.prevent="apply">
    <div class="common" role="group" aria-label="Common sizes in millimetres">
      <Button
        v-for="s in COMMON"
        :key="s[0]"
        :label="`${s[0]} × ${s[1]}`"
        size="small"
        severity="secondary"
        variant="outlined"
        @click="choose(s)"
      />
    </div>
    <div class="own">
      <MeasureInput of="length" v-model="width" :min="3" :max="120" label="Width of the sensor" />
      ×
      <MeasureInput of="length" v-model="height" :min="3" :max="120" label="Height of the sensor" />
      <Button type="submit" label="Measure again" size="small" :disabled="!width || !height" />
    </div>
  </form>
</template>

<style scoped>
.form {
  display: grid;
  gap: var(--space-2);
}
.common {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-1);
}
.own {
  display: flex;
  align-items: center;
  gap: var(--space-2);
}
.own :deep(input) {
  width: 6rem;
}
</style>
