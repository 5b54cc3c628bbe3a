<script setup lang="ts">
import Button from 'primevue/button'
import InputNumber from 'primevue/inputnumber'
import InputText from 'primevue/inputtext'
import Message from 'primevue/message'
import MultiSelect from 'primevue/multiselect'
import Select from 'primevue/select'
import SelectButton from 'primevue/selectbutton'
import { computed, ref } from 'vue'
import DayInput from '@/shared/components/DayInput.vue'
import type { Body } from '@/api/client'
import { useSettings } from '@/shared/composables/useSettings'
import MeasureInput from '@/shared/components/MeasureInput.vue'
import { WORKING } from '@/shared/lib/apertures'
import { ACCESS_WORDS, FORMATS, HOLD_WORDS } from '@/shared/lib/bodies'

const props = defineProps<{ body: Body; error: string; label: string }>()
const emit = defineEmits<{ save: [body: Body]; back: [] }>()
const draft = ref<Body>(JSON.parse(JSON.stringify(props.body)) as Body)
const access = Object.entries(ACCESS_WORDS).map(([value, label]) => ({ label, value }))
const holds = [
  { label: 'Not known', value: 'unknown' },
  ...Object.entries(HOLD_WORDS).map(([value, label]) => ({ label, value })),
]
const { by } = useSettings()
const formats = computed(() => [
  ...FORMATS.map(([w, h]) => ({ label: by(w, h), value: `${w}x${h}` })),
  { label: 'Other', value: 'other' },
])
const stops = WORKING.map((n) => ({ label: `f/${n}`, value: n as number }))
const yesNo = [
  { label: 'Yes', value: true },
  { label: 'No', value: false },
]
const shaky = [
  { label: 'Yes', value: 'yes' },
  { label: 'No', value: 'no' },
  { label: 'Not known', value: 'unknown' },
]
const named = (s: readonly number[]): string =>
  FORMATS.some(([w, h]) => w === s[0] && h === s[1]) ? `${s[0]}x${s[1]}` : 'other'
const format = ref(named(draft.value.sensor_mm))
const stabilised = computed({
  get: () => (draft.value.stabilised === true ? 'yes' : draft.value.stabilised === false ? 'no' : 'unknown'),
  set: (v: string) => {
    draft.value.stabilised = v === 'yes' ? true : v === 'no' ? false : null
  },
})
const holdRule = computed({
  get: () => draft.value.hold_rule ?? 'unknown',
  set: (v: string) => {
    draft.value.hold_rule = v === 'unknown' ? null : (v as NonNullable<Body['hold_rule']>)
  },
})

function pick(value: string): void {
  format.value = value
  const [w, h] = value.split('x').map(Number)
  if (w && h) draft.value.sensor_mm = [w, h]
}

function save(): void {
  const body = draft.value
  emit('save', {
    ...body,
    guarantee_until: body.guarantee_until || null,
    camera_name: body.camera_name || null,
    works_at: body.works_at ?? [16],
  })
}
</script>

<template>
  <form class="form" @submit.prevent="save">
    <Message v-if="error" severity="error" :closable="false">{{ error }}</Message>
    <div class="row">
      <label class="grow"
        >Name<InputText
          v-model="draft.name"
          required
          autofocus
          maxlength="80"
          placeholder="Your own name for it"
      /></label>
      <label
        >Lens and mirror<Select
          v-model="draft.access"
          :options="access"
          option-label="label"
          option-value="value"
      /></label>
    </div>
    <div class="row">
      <label
        >Sensor<Select
          :model-value="format"
          :options="formats"
          option-label="label"
          option-value="value"
          @update:model-value="pick"
      /></label>
      <template v-if="format === 'other'">
        <label>Width<MeasureInput of="length" v-model="draft.sensor_mm[0]" :min="3" :max="120" /></label>
        <label>Height<MeasureInput of="length" v-model="draft.sensor_mm[1]" :min="3" :max="120" /></label>
      </template>
      <label
        >You work at<MultiSelect
          v-model="draft.works_at"
          :options="stops"
          option-label="label"
          option-value="value"
          :show-toggle-all="false"
          aria-label="You work at"
      /></label>
    </div>
    <div class="row">
      <label
        >Sensor stabilised<SelectButton
          v-model="stabilised"
          :options="shaky"
          option-label="label"
          option-value="value"
          :allow-empty="false"
          aria-label="Sensor stabilised"
      /></label>
      <label v-if="stabilised !== 'no'"
        >What holds it, says the handbook<Select
          v-model="holdRule"
          :options="holds"
          option-label="label"
          option-value="value"
      /></label>
    </div>
    <label v-if="stabilised !== 'no'"
      >Where the handbook says so<InputText
        v-model="draft.hold_note"
        maxlength="400"
        placeholder="Page, and its words"
    /></label>
    <p v-if="stabilised !== 'no' && !draft.hold_rule" class="warn">
      While this is not known, nothing may touch the sensor.
    </p>
    <div v-if="draft.access === 'mirror'" class="row">
      <label class="grow"
        >Your way to the mirror lock-up<InputText
          v-model="draft.lockup_note"
          maxlength="400"
          placeholder="The menu path in your own words"
      /></label>
      <label
        >A full battery holds it<InputNumber
          v-model="draft.lockup_minutes"
          :min="1"
          :max="600"
          suffix=" min"
          placeholder="By your own note"
      /></label>
    </div>
    <div class="row">
      <label
        >Cleans itself by shaking<SelectButton
          v-model="draft.self_clean"
          :options="yesNo"
          option-label="label"
          option-value="value"
          :allow-empty="false"
          aria-label="Cleans itself"
      /></label>
      <label
        >A filter was removed<SelectButton
          v-model="draft.filter_removed"
          :options="yesNo"
          option-label="label"
          option-value="value"
          :allow-empty="false"
          aria-label="A filter was removed"
      /></label>
      <label>Guarantee until<DayInput v-model="draft.guarantee_until" /></label>
    </div>
    <div class="row">
      <label>Flange distance<MeasureInput of="length" v-model="draft.flange_mm" :min="1" :max="400" /></label>
      <label
        >Chamber, across a swab<MeasureInput of="length" v-model="draft.chamber_mm" :min="3" :max="300"
      /></label>
      <label>Test lens<InputNumber v-model="draft.lens_focal_mm" :min="4" :max="2000" suffix=" mm" /></label>
      <label
        >Its smallest opening<InputNumber
          v-model="draft.lens_smallest_f"
          prefix="f/"
          :min="1"
          :max="128"
          :max-fraction-digits="1"
      /></label>
    </div>
    <div class="end">
      <Button label="Back" severity="secondary" variant="text" @click="emit('back')" /><Button
        type="submit"
        :label="label"
      />
    </div>
  </form>
</template>

<style scoped>
.form {
  display: grid;
  gap: 0.9rem;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 0.8rem 1.4rem;
}
label {
  display: grid;
  gap: 0.25rem;
  font-size: var(--text-body);
}
.grow {
  flex: 1;
  min-width: 240px;
}
label :deep(.p-inputnumber-input) {
  width: 7.5rem;
}
.warn {
  color: var(--warn);
  font-weight: 600;
}
.end {
  display: flex;
  justify-content: flex-end;
  gap: var(--space-2);
}
</style>
