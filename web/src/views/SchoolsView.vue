<script setup lang="ts">
import InputNumber from 'primevue/inputnumber'
import Message from 'primevue/message'
import RadioButton from 'primevue/radiobutton'
import ToggleSwitch from 'primevue/toggleswitch'
import { onMounted, ref } from 'vue'
import { answer, api, type Schemas, type Schools } from '../api/client'
import { ORDERS, POINTS } from '../lib/schools'

const schools = ref<Schools | null>(null)
const service = ref<Schemas['ServiceFacts']>({})
const saved = ref('')
const error = ref('')

onMounted(async () => {
  try {
    schools.value = (await answer(api.GET('/api/schools'))) as Schools
    service.value = await answer(api.GET('/api/service'))
  } catch (problem) {
    error.value = (problem as Error).message
  }
})

async function keep(change: Partial<Schools>): Promise<void> {
  if (!schools.value) return
  schools.value = { ...schools.value, ...change }
  try {
    await answer(api.PUT('/api/schools', { body: schools.value }))
    saved.value = 'Kept.'
    error.value = ''
  } catch (problem) {
    error.value = (problem as Error).message
  }
}

async function keepService(): Promise<void> {
  await answer(api.PUT('/api/service', { body: service.value }))
  saved.value = 'Kept.'
}

const same = (a: Schools['contact_order'], b: Schools['contact_order']): boolean => JSON.stringify(a ?? null) === JSON.stringify(b ?? null)
</script>

<template>
  <section class="page">
    <div>
      <h1>Schools</h1>
      <p class="soft">People differ on how to clean a sensor. Choose once; every visit follows, and can be told otherwise. <span role="status">{{ saved }}</span></p>
    </div>
    <Message v-if="error" severity="error" :closable="false">{{ error }}</Message>
    <div v-if="schools" class="points">
      <fieldset>
        <legend>In which order are tools that touch tried?</legend>
        <label v-for="o in ORDERS" :key="o.label"><RadioButton :model-value="true" :value="same(schools.contact_order, o.order)" name="order" @update:model-value="keep({ contact_order: o.order })" /><span><strong>{{ o.label }}</strong><em v-if="o.order === null">usual</em><br>{{ o.reason }}</span></label>
      </fieldset>
      <fieldset v-for="p in POINTS" :key="p.key">
        <legend>{{ p.question }}</legend>
        <label v-for="s in p.sides" :key="String(s.value)"><RadioButton :model-value="schools[p.key] ?? p.usual" :value="s.value" :name="p.key" @update:model-value="keep({ [p.key]: s.value === '' ? null : s.value })" /><span><strong>{{ s.label }}</strong><em v-if="s.value === p.usual">usual</em><br>{{ s.reason }}</span></label>
      </fieldset>
      <fieldset>
        <legend>Your service</legend>
        <label class="plain">Days without the body<InputNumber v-model="service.turnaround_days" :min="0" :max="365" @update:model-value="keepService" /></label>
        <label class="plain">Months since the last<InputNumber v-model="service.months_since_service" :min="0" :max="600" @update:model-value="keepService" /></label>
        <label class="plain">A membership includes cleans<ToggleSwitch :model-value="service.membership_includes_clean ?? false" @update:model-value="service.membership_includes_clean = $event; keepService()" /></label>
      </fieldset>
    </div>
  </section>
</template>

<style scoped>
.page { display: grid; gap: 1rem; max-width: 1200px; margin: 0 auto; padding: 1.4rem 2rem; }
.points { columns: 2; column-gap: 1rem; }
fieldset { display: grid; gap: 0.5rem; break-inside: avoid; margin: 0 0 1rem; padding: 0.5rem 1rem 0.9rem; background: var(--panel); border: 1px solid var(--line); border-radius: 5px; }
legend { padding: 0 0.3rem; font-weight: 650; }
label { display: grid; grid-template-columns: auto 1fr; gap: 0.7rem; align-items: start; }
label.plain { grid-template-columns: 1fr auto; align-items: center; }
em { margin-left: 0.5rem; padding: 0 0.4rem; font-size: 0.8rem; font-style: normal; color: var(--ink-soft); border: 1px solid var(--line); border-radius: 3px; }
@media (max-width: 900px) { .points { columns: 1; } }
</style>
