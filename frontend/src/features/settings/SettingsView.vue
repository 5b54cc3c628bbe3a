<script setup lang="ts">
import InputNumber from 'primevue/inputnumber'
import SelectButton from 'primevue/selectbutton'
import ToggleSwitch from 'primevue/toggleswitch'
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import {
  answerTagged,
  api,
  CHANGED,
  Refusal,
  seen,
  type Schemas,
  type Schools,
  type Settings,
} from '@/api/client'
import { queries } from '@/api/queries'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useAsk } from '@/shared/composables/useAsk'
import { useSettings } from '@/shared/composables/useSettings'
import { useTell } from '@/shared/composables/useTell'
import SchoolPoints from '@/shared/components/SchoolPoints.vue'

const client = useQueryClient()
const { settings, change } = useSettings()
const keptSchools = useAsk(queries.schools)
const keptService = useAsk(queries.service)
const schools = computed(() => keptSchools.value.value?.value ?? null)
const service = ref<Schemas['ServiceFacts']>({})
watch(
  keptService.value,
  (now) => {
    service.value = { ...now?.value }
  },
  { immediate: true },
)
const { tell, refused, error: notKept } = useTell()
const saved = ref('')
const error = computed(() => notKept.value || keptSchools.error.value || keptService.error.value)
const UNITS = [
  { label: 'mm, °C', value: 'metric' },
  { label: 'inches, °F', value: 'inch' },
]
const HANDS = [
  { label: 'Right', value: 'right' },
  { label: 'Left', value: 'left' },
]

/** What was changed elsewhere meanwhile is fetched, and said; nothing is overwritten. */
async function keep(call: () => Promise<unknown>, again: () => Promise<void>): Promise<void> {
  saved.value = (await tell(call)) ? 'Saved' : ''
  if (refused.value instanceof Refusal && refused.value.kind === CHANGED) await again()
}

function keepSchools(part: Partial<Schools>): Promise<void> {
  const { queryKey } = queries.schools()
  const old = keptSchools.value.value
  return keep(async () => {
    if (!old) return
    const header = seen(old.version)
    const kept = await answerTagged(
      api.PUT('/api/schools', { params: { header }, body: { ...old.value, ...part } }),
    )
    client.setQueryData(queryKey, kept)
  }, keptSchools.again)
}

function keepService(part: Schemas['ServiceFacts'] = {}): Promise<void> {
  const { queryKey } = queries.service()
  return keep(async () => {
    const header = seen(keptService.value.value?.version ?? '0')
    const body = { ...service.value, ...part }
    client.setQueryData(queryKey, await answerTagged(api.PUT('/api/service', { params: { header }, body })))
  }, keptService.again)
}

function keepSetting(part: Partial<Settings>): Promise<void> {
  return keep(
    () => change(part),
    () => Promise.resolve(),
  )
}
</script>

<template>
  <section class="page">
    <div>
      <h1>Settings</h1>
      <p class="soft">
        People differ on how to clean a sensor. Choose a method on each point once; every visit follows, and
        can be told otherwise. <span role="status">{{ saved }}</span>
      </p>
    </div>
    <FailureNote :error="error" />
    <div v-if="schools" class="points">
      <fieldset>
        <legend>You</legend>
        <label class="plain"
          >Units<SelectButton
            :model-value="settings.units"
            :options="UNITS"
            option-label="label"
            option-value="value"
            :allow-empty="false"
            aria-label="Units"
            @update:model-value="keepSetting({ units: $event })"
        /></label>
        <label class="plain"
          >The hand that works<SelectButton
            :model-value="settings.hand"
            :options="HANDS"
            option-label="label"
            option-value="value"
            :allow-empty="false"
            aria-label="The hand that works"
            @update:model-value="keepSetting({ hand: $event })"
        /></label>
      </fieldset>
      <SchoolPoints :schools="schools" @choose="keepSchools" />
      <fieldset>
        <legend>Your service</legend>
        <label class="plain"
          >Days without the body<InputNumber
            v-model="service.turnaround_days"
            :min="0"
            :max="365"
            @update:model-value="keepService()"
        /></label>
        <label class="plain"
          >A membership includes cleans<ToggleSwitch
            :model-value="service.membership_includes_clean ?? false"
            @update:model-value="keepService({ membership_includes_clean: $event })"
        /></label>
      </fieldset>
    </div>
  </section>
</template>

<style scoped>
.page {
  display: grid;
  gap: var(--space-3);
  max-width: 1200px;
  margin: 0 auto;
  padding: 1.4rem var(--space-5);
}
.points {
  columns: 2;
  column-gap: var(--space-3);
}
fieldset {
  display: grid;
  gap: 0.5rem;
  break-inside: avoid;
  margin: 0 0 var(--space-3);
  padding: 0.5rem var(--space-3) 0.9rem;
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 5px;
}
legend {
  padding: 0 var(--space-1);
  font-weight: 650;
}
label.plain {
  display: grid;
  gap: 0.7rem;
  grid-template-columns: 1fr auto;
  align-items: center;
}
@media (max-width: 900px) {
  .points {
    columns: 1;
  }
}
</style>
