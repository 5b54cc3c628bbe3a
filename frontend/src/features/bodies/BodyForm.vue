<script setup lang="ts">
import Button from 'primevue/button'
import InputNumber from 'primevue/inputnumber'
import InputText from 'primevue/inputtext'
import Message from 'primevue/message'
import Select from 'primevue/select'
import { computed, ref, watch } from 'vue'
import ChoiceField from '@/shared/components/ChoiceField.vue'
import DayInput from '@/shared/components/DayInput.vue'
import type { Body } from '@/api/client'
import { useSettings } from '@/shared/composables/useSettings'
import PictureChoice from '@/shared/components/PictureChoice.vue'
import AccessDrawing from '@/shared/drawings/AccessDrawing.vue'
import FormatDrawing from '@/shared/drawings/FormatDrawing.vue'
import IrisDrawing from '@/shared/drawings/IrisDrawing.vue'
import StabilisedDrawing from '@/shared/drawings/StabilisedDrawing.vue'
import MeasureInput from '@/shared/components/MeasureInput.vue'
import WorkedAt from './WorkedAt.vue'
import { WORKING } from '@/shared/lib/apertures'
import { ACCESS_WORDS, FORMAT_NAMES, HOLD_WORDS } from '@/shared/lib/bodies'

const props = defineProps<{ body: Body; error: string; label: string }>()
const emit = defineEmits<{ save: [body: Body]; back: [] }>()
const draft = ref<Body>(JSON.parse(JSON.stringify(props.body)) as Body)
const access = (Object.keys(ACCESS_WORDS) as NonNullable<Body['access']>[]).map((value) => ({
  label: ACCESS_WORDS[value],
  value,
}))
/** One already known is looked through whole; of a new one four things are asked, the rest when it is needed. */
const known = props.body.name !== ''
const holds = [
  { label: 'Not known', value: 'unknown' },
  ...Object.entries(HOLD_WORDS).map(([value, label]) => ({ label, value })),
]
const { by } = useSettings()
const formats = computed(() => [
  ...FORMAT_NAMES.map(({ name, size: [w, h] }) => ({ label: name, hint: by(w, h), value: `${w}x${h}` })),
  { label: 'Other', hint: '', value: 'other' },
])
const stops = WORKING.map((n) => ({ label: `f/${n}`, value: n }))
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
  FORMAT_NAMES.some(({ size: [w, h] }) => w === s[0] && h === s[1]) ? `${s[0]}x${s[1]}` : 'other'
const format = ref(named(draft.value.sensor_mm))
const stabilised = computed({
  get: () => (draft.value.stabilised === true ? 'yes' : draft.value.stabilised === false ? 'no' : 'unknown'),
  set: (v: string) => {
    draft.value.stabilised = v === 'yes' ? true : v === 'no' ? false : null
  },
})
const triple = (name: 'closes_when_off' | 'modifier_allows') =>
  computed({
    get: () => (draft.value[name] === true ? 'yes' : draft.value[name] === false ? 'no' : 'unknown'),
    set: (v: string) => {
      draft.value[name] = v === 'yes' ? true : v === 'no' ? false : null
    },
  })
const closes = triple('closes_when_off')
const modifier = triple('modifier_allows')
const warranties = [
  { label: 'Runs', value: 'runs' },
  { label: 'None', value: 'none' },
  { label: 'Not known', value: 'unknown' },
]
const warranty = ref(draft.value.guarantee_until ? 'runs' : draft.value.no_guarantee ? 'none' : 'unknown')
/** Power off holds the sensor, and power off closes the camera over it. */
const collides = computed(
  () =>
    stabilised.value !== 'no' &&
    (draft.value.hold_rule === 'off' || draft.value.hold_rule === 'battery_out') &&
    (draft.value.closes_when_off === true || draft.value.access === 'mirror'),
)
const holdRule = computed({
  get: () => draft.value.hold_rule ?? 'unknown',
  set: (v: string) => {
    draft.value.hold_rule = v === 'unknown' ? null : (v as NonNullable<Body['hold_rule']>)
  },
})

const sidesOf = (value: string): [number, number] | null => {
  const [w, h] = value.split('x').map(Number)
  return w && h ? [w, h] : null
}
watch(format, (value) => {
  draft.value.sensor_mm = sidesOf(value) ?? draft.value.sensor_mm
})

function save(): void {
  const body = draft.value
  emit('save', {
    ...body,
    guarantee_until: (warranty.value === 'runs' && body.guarantee_until) || null,
    no_guarantee: warranty.value === 'none',
    serviced_on: body.serviced_on || null,
    camera_name: body.camera_name || null,
    works_at: body.works_at ?? [16],
  })
}
</script>

<template>
  <form class="form" @submit.prevent="save">
    <Message v-if="error" severity="error" :closable="false">{{ error }}</Message>
    <label
      >Name<InputText
        v-model="draft.name"
        required
        autofocus
        maxlength="80"
        placeholder="Your own name for it"
    /></label>
    <PictureChoice v-model="draft.access" label="What is it?" :options="access">
      <template #default="{ value }"><AccessDrawing class="camera" :access="value" /></template>
    </PictureChoice>
    <PictureChoice v-model="format" label="How large is its sensor?" :options="formats">
      <template #default="{ value }"
        ><FormatDrawing v-if="value !== 'other'" class="format" :size="sidesOf(value) ?? [0, 0]"
      /></template>
    </PictureChoice>
    <div v-if="format === 'other'" class="row">
      <label>Width<MeasureInput of="length" v-model="draft.sensor_mm[0]" :min="3" :max="120" /></label>
      <label>Height<MeasureInput of="length" v-model="draft.sensor_mm[1]" :min="3" :max="120" /></label>
    </div>
    <div class="row">
      <PictureChoice v-model="stabilised" label="Is the sensor stabilised?" :options="shaky">
        <template #default="{ value }"><StabilisedDrawing class="held" :state="value" /></template>
      </PictureChoice>
      <PictureChoice v-model="draft.works_at" label="Where do you work?" :options="stops" several>
        <template #default="{ value }"><IrisDrawing class="iris" :n="value" /></template>
      </PictureChoice>
    </div>
    <WorkedAt @use="draft.works_at = $event" />
    <details :open="known">
      <summary>Before anything touches it</summary>
      <div class="inner">
        <div class="row">
          <label v-if="stabilised !== 'no'"
            >How the sensor is locked for cleaning (see its handbook)<Select
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
        <div v-if="draft.access === 'mirrorless'" class="row">
          <ChoiceField v-model="closes" label="Closes over the sensor when off" :options="shaky" />
          <label class="grow"
            >Your way to cleaning by hand<InputText
              v-model="draft.cleaning_note"
              maxlength="400"
              placeholder="The menu path in your own words"
          /></label>
        </div>
        <label v-if="draft.access === 'fixed_mirror'"
          >The latch of its mirror<InputText
            v-model="draft.latch_note"
            maxlength="400"
            placeholder="Where it is, in your own words"
        /></label>
        <p v-if="collides" class="warn">
          Switched off it is locked, but switched off it also closes over the sensor: only its handbook or a
          service knows how it is cleaned. Nothing may touch it.
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
          <ChoiceField v-model="draft.self_clean" label="Cleans itself by shaking" :options="yesNo" />
          <label v-if="draft.self_clean" class="grow"
            >Your way to the shake<InputText
              v-model="draft.shake_note"
              maxlength="400"
              placeholder="The menu path in your own words"
          /></label>
          <ChoiceField v-model="draft.filter_removed" label="A filter was removed" :options="yesNo" />
          <ChoiceField
            v-if="draft.filter_removed"
            v-model="modifier"
            label="Contact allowed by whoever removed it"
            :options="shaky"
          />
        </div>
        <div class="row">
          <ChoiceField v-model="warranty" label="Warranty" :options="warranties" />
          <label v-if="warranty === 'runs'">Until<DayInput v-model="draft.guarantee_until" /></label>
          <label>Last service<DayInput v-model="draft.serviced_on" /></label>
        </div>
        <p v-if="warranty === 'unknown'" class="warn">
          While the warranty is not known, nothing may touch the sensor: contact may end it.
        </p>
      </div>
    </details>
    <details :open="known">
      <summary>Notes</summary>
      <div class="inner">
        <label class="grow"
          >Serial number<InputText v-model="draft.serial" maxlength="80" placeholder="As on its plate"
        /></label>
        <div class="row">
          <label
            >Flange distance (for loupes)<MeasureInput
              of="length"
              v-model="draft.flange_mm"
              :min="1"
              :max="400"
          /></label>
          <label
            >Mount opening (limits swab width)<MeasureInput
              of="length"
              v-model="draft.chamber_mm"
              :min="3"
              :max="300"
          /></label>
          <label
            >Test lens<InputNumber v-model="draft.lens_focal_mm" :min="4" :max="2000" suffix=" mm"
          /></label>
          <label
            >Its smallest opening<InputNumber
              v-model="draft.lens_smallest_f"
              prefix="f/"
              :min="1"
              :max="128"
              :max-fraction-digits="1"
          /></label>
        </div>
      </div>
    </details>
    <div class="end">
      <Button label="Cancel" severity="secondary" variant="text" @click="emit('back')" /><Button
        type="submit"
        :label="label"
      />
    </div>
  </form>
</template>

<style scoped>
.form {
  display: grid;
  gap: var(--space-3);
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-3) var(--space-4);
}
label {
  display: grid;
  gap: var(--space-1);
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
.camera {
  width: 78px;
  height: 68px;
}
.format {
  width: 46px;
  height: 34px;
}
.held {
  width: 76px;
  height: 42px;
}
.iris {
  width: 30px;
  height: 30px;
}
.inner {
  display: grid;
  gap: var(--space-3);
  padding: var(--space-2) 0;
}
.end {
  position: sticky;
  bottom: -1.25rem;
  z-index: 1;
  margin-bottom: -1.25rem;
  padding: var(--space-2) 0 var(--space-3);
  background: var(--panel);
  border-top: 1px solid var(--line);
  display: flex;
  justify-content: flex-end;
  gap: var(--space-2);
}
</style>
