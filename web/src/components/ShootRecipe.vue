<script setup lang="ts">
import InputNumber from 'primevue/inputnumber'
import { ref, watch } from 'vue'
import { RouterLink } from 'vue-router'
import { answer, api, type ShootPlan } from '../api/client'

/** The recipe of the test frame for the lens at hand; the same again for every retest. */
const LENS = 'neatpatch-lens'
interface Lens { focal_mm: number; smallest_f: number }
const kept = localStorage.getItem(LENS)
const lens = ref<Lens>(kept ? (JSON.parse(kept) as Lens) : { focal_mm: 85, smallest_f: 22 })
const plan = ref<ShootPlan | null>(null)
const error = ref('')

watch(lens, async (now) => {
  localStorage.setItem(LENS, JSON.stringify(now))
  if (!now.focal_mm || !now.smallest_f) return
  try {
    plan.value = await answer(api.GET('/api/plans/shoot', { params: { query: now } }))
    error.value = ''
  } catch (problem) {
    plan.value = null
    error.value = (problem as Error).message
  }
}, { deep: true, immediate: true })
</script>

<template>
  <details class="recipe">
    <summary>How to shoot it</summary>
    <div class="lens">
      <label>Lens<InputNumber v-model="lens.focal_mm" suffix=" mm" :min="1" :max="3000" size="small" /></label>
      <label>Smallest opening<InputNumber v-model="lens.smallest_f" prefix="f/" :min="1" :max="128" :max-fraction-digits="1" size="small" /></label>
      <RouterLink :to="{ name: 'light' }">Light page</RouterLink>
    </div>
    <p v-if="error" role="alert">{{ error }}</p>
    <ol v-if="plan"><li v-for="step in plan.steps" :key="step">{{ step }}</li></ol>
  </details>
</template>

<style scoped>
summary { cursor: pointer; font-weight: 650; padding: 0.25rem 0; }
.lens { display: flex; flex-wrap: wrap; gap: 0.8rem; align-items: end; }
label { display: grid; gap: 0.2rem; font-size: 0.9rem; }
label :deep(.p-inputnumber-input) { width: 6rem; }
ol { margin: 0.5rem 0 0; padding-left: 1.3rem; display: grid; gap: 0.25rem; }
</style>
