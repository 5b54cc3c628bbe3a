<script setup lang="ts">
import InputNumber from 'primevue/inputnumber'
import Message from 'primevue/message'
import SelectButton from 'primevue/selectbutton'
import ToggleSwitch from 'primevue/toggleswitch'
import { onMounted, ref } from 'vue'
import { answerTagged, api, CHANGED, Refusal, seen, type Schemas, type Schools, type Settings } from '../api/client'
import { useSettings } from '../composables/useSettings'
import SchoolPoints from '../components/SchoolPoints.vue'

const schools = ref<Schools | null>(null)
const service = ref<Schemas['ServiceFacts']>({})
const saved = ref('')
const { settings, change } = useSettings()
const UNITS = [{ label: 'mm, °C', value: 'metric' }, { label: 'inches, °F', value: 'inch' }]
const HANDS = [{ label: 'Right', value: 'right' }, { label: 'Left', value: 'left' }]
const error = ref('')

const versions = { schools: '0', service: '0' }

async function load(): Promise<void> {
  const found = await answerTagged(api.GET('/api/schools'))
  schools.value = found.value as Schools
  versions.schools = found.version
  const kept = await answerTagged(api.GET('/api/service'))
  service.value = kept.value
  versions.service = kept.version
}

onMounted(() => attempt(load))

/** What was changed elsewhere meanwhile is fetched, and said; nothing is overwritten. */
async function attempt(work: () => Promise<void>): Promise<void> {
  try {
    await work()
    error.value = ''
  } catch (problem) {
    error.value = (problem as Error).message
    saved.value = ''
    if (problem instanceof Refusal && problem.kind === CHANGED) await load()
  }
}

async function keep(change: Partial<Schools>): Promise<void> {
  if (!schools.value) return
  const body = { ...schools.value, ...change }
  schools.value = body
  await attempt(async () => {
    versions.schools = (await answerTagged(api.PUT('/api/schools', { params: { header: seen(versions.schools) }, body }))).version
    saved.value = 'Kept.'
  })
}

async function keepSetting(part: Partial<Settings>): Promise<void> {
  try {
    await change(part)
    saved.value = 'Kept.'
    error.value = ''
  } catch (problem) {
    error.value = (problem as Error).message
  }
}

async function keepService(): Promise<void> {
  await attempt(async () => {
    const body = service.value
    versions.service = (await answerTagged(api.PUT('/api/service', { params: { header: seen(versions.service) }, body }))).version
    saved.value = 'Kept.'
  })
}
</script>

<template>
  <section class="page">
    <div>
      <h1>Settings</h1>
      <p class="soft">People differ on how to clean a sensor. Choose a school on each point once; every visit follows, and can be told otherwise. <span role="status">{{ saved }}</span></p>
    </div>
    <Message v-if="error" severity="error" :closable="false">{{ error }}</Message>
    <div v-if="schools" class="points">
      <fieldset>
        <legend>You</legend>
        <label class="plain">Units<SelectButton :model-value="settings.units" :options="UNITS" option-label="label" option-value="value" :allow-empty="false" aria-label="Units" @update:model-value="keepSetting({ units: $event })" /></label>
        <label class="plain">The hand that works<SelectButton :model-value="settings.hand" :options="HANDS" option-label="label" option-value="value" :allow-empty="false" aria-label="The hand that works" @update:model-value="keepSetting({ hand: $event })" /></label>
      </fieldset>
      <SchoolPoints :schools="schools" @choose="keep" />
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
label.plain { display: grid; gap: 0.7rem; grid-template-columns: 1fr auto; align-items: center; }
@media (max-width: 900px) { .points { columns: 1; } }
</style>
