<script setup lang="ts">
import { CHARGES, chargeOf, chargeWord } from './battery'
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import InputNumber from 'primevue/inputnumber'
import InputText from 'primevue/inputtext'
import Message from 'primevue/message'
import Select from 'primevue/select'
import ToggleButton from 'primevue/togglebutton'
import { computed, ref, watch } from 'vue'
import { useSettings } from '@/shared/composables/useSettings'
import ChoiceField from '@/shared/components/ChoiceField.vue'
import DayInput from '@/shared/components/DayInput.vue'
import type { Body, Conditions } from '@/api/client'
import DryingWords from './DryingWords.vue'
import MeasureInput from '@/shared/components/MeasureInput.vue'

/** `save` tells whether it was saved; until then the form keeps what was entered. */
const props = defineProps<{
  conditions: Conditions
  version: number
  body: Body
  offered: Conditions | null
  /** The newest frame does not tell its aperture. */
  unknownAperture: boolean
  error: string
  save: (conditions: Conditions, version: number) => Promise<boolean>
}>()
const { celsius } = useSettings()
const open = defineModel<boolean>('open', { required: true })
const draft = ref<Conditions>({ ...props.conditions })
let opened = props.version
watch(open, (now) => {
  if (now) opened = props.version
  refused.value = false
  if (now) draft.value = JSON.parse(JSON.stringify(props.conditions)) as Conditions
})

const yesNo = [
  { label: 'Yes', value: true },
  { label: 'No', value: false },
]
const stillAir = [
  { label: 'Still', value: false },
  { label: 'Moving', value: true },
]
const surfaces = [
  { label: 'Bare', value: 'bare' },
  { label: 'Cloth', value: 'fabric' },
]
const powers = [
  { label: 'Off', value: 'off' },
  { label: 'On', value: 'on' },
  { label: 'Battery out', value: 'battery_out' },
]
const hands = [
  { label: 'Beginner', value: 'novice' },
  { label: 'Practised', value: 'practised' },
  { label: 'Expert', value: 'expert' },
]
const seen = [
  { label: 'Grit', value: 'grit' },
  { label: 'Metal crumbs', value: 'metal_crumbs' },
  { label: 'Spit', value: 'saliva' },
  { label: 'A line that may be a scratch', value: 'scratch_suspected' },
  { label: 'Gel left behind', value: 'gel_left' },
  { label: 'Fluid left standing', value: 'fluid_stood' },
  { label: 'Bent swab tip', value: 'tip_bent' },
  { label: 'Glints in the loupe', value: 'loupe_glint' },
] as const
type Seen = (typeof seen)[number]['value']

function toggle(what: Seen): void {
  const now = draft.value.observed ?? []
  draft.value.observed = now.includes(what) ? now.filter((w) => w !== what) : [...now, what]
}

/** What was entered last time and is not entered yet, in words. */
const recalled = computed(() => {
  const o = props.offered
  if (!o) return []
  const d = draft.value
  return [
    o.temperature_c != null && d.temperature_c == null ? celsius(o.temperature_c) : '',
    o.humidity_percent != null && d.humidity_percent == null ? `${o.humidity_percent} %` : '',
    o.moving_air === false && d.moving_air == null ? 'air still' : '',
    o.surface === 'bare' && d.surface == null ? 'table bare' : '',
    o.room_clean && d.room_clean == null ? 'wiped down' : '',
    o.battery_percent != null && d.battery_percent == null ? `battery ${chargeWord(o.battery_percent)}` : '',
  ].filter(Boolean)
})

/** Fills in what is empty; nothing that was entered is changed, and nothing is saved yet. */
function recall(): void {
  const known = Object.entries(props.offered ?? {}).filter(
    ([name, value]) => value != null && draft.value[name as keyof Conditions] == null,
  )
  draft.value = { ...draft.value, ...Object.fromEntries(known) }
}

const refused = ref(false)

async function keep(): Promise<void> {
  draft.value.job_on = draft.value.job_on || null
  // After a refusal the newer one was told: saving once more is meant.
  if (await props.save(draft.value, refused.value ? props.version : opened)) open.value = false
  else refused.value = true
}
</script>

<template>
  <Dialog v-model:visible="open" modal header="Conditions" :style="{ width: '780px' }">
    <form id="conditions" class="form" @submit.prevent="keep">
      <Message v-if="refused && error" class="wide" severity="error" :closable="false">{{ error }}</Message>
      <div v-if="recalled.length" class="wide again">
        <Button
          label="Same as last time"
          icon="pi pi-history"
          severity="secondary"
          variant="outlined"
          size="small"
          @click="recall"
        />
        <span class="soft">{{ recalled.join(' · ') }}. Check each: it may have changed.</span>
      </div>
      <label class="wide">Why now<InputText v-model="draft.why_now" maxlength="400" autofocus /></label>
      <fieldset>
        <legend>Room</legend>
        <label
          >Temperature<MeasureInput of="temperature" :min="-40" :max="60" v-model="draft.temperature_c"
        /></label>
        <label
          >Humidity<InputNumber v-model="draft.humidity_percent" suffix=" %" :min="0" :max="100"
        /></label>
        <ChoiceField v-model="draft.moving_air" label="Air" :options="stillAir" open />
        <ChoiceField v-model="draft.surface" label="Table" :options="surfaces" open />
        <ChoiceField v-model="draft.room_clean" label="Wiped down" :options="yesNo" open />
        <DryingWords
          v-if="open"
          :temperature="draft.temperature_c"
          :humidity="draft.humidity_percent"
          :camera="draft.camera_c"
        />
      </fieldset>
      <fieldset>
        <legend>Camera</legend>
        <label
          >Camera temperature<MeasureInput
            of="temperature"
            :min="-40"
            :max="60"
            v-model="draft.camera_c"
            label="Camera temperature"
        /></label>
        <ChoiceField v-model="draft.power" label="Switched" :options="powers" open />
        <ChoiceField
          :model-value="chargeOf(draft.battery_percent)"
          label="Battery"
          :options="CHARGES"
          open
          @update:model-value="draft.battery_percent = $event"
        />
        <ChoiceField v-model="draft.mains" label="Mains adapter" :options="yesNo" open />
        <ChoiceField
          v-if="body.access === 'mirror' || body.access === 'fixed_mirror'"
          v-model="draft.mirror_up"
          label="Mirror raised"
          :options="yesNo"
          open
        />
      </fieldset>
      <fieldset>
        <legend>You and the work</legend>
        <label
          >Experience<Select
            v-model="draft.experience"
            :options="hands"
            option-label="label"
            option-value="value"
            placeholder="Choose"
        /></label>
        <label v-if="unknownAperture || draft.shot_at_f != null"
          >Aperture of the test frames<InputNumber
            v-model="draft.shot_at_f"
            prefix="f/"
            :min="1"
            :max="128"
            :max-fraction-digits="1"
        /></label>
        <label>Next job on<DayInput v-model="draft.job_on" /></label>
        <label>Pictures waiting<InputNumber v-model="draft.photos_waiting" :min="0" :max="1000000" /></label>
      </fieldset>
      <fieldset>
        <legend>Seen on the sensor</legend>
        <div class="seen">
          <ToggleButton
            v-for="s in seen"
            :key="s.value"
            :model-value="draft.observed?.includes(s.value) ?? false"
            :on-label="s.label"
            :off-label="s.label"
            size="small"
            @update:model-value="toggle(s.value)"
          />
        </div>
      </fieldset>
    </form>
    <template #footer>
      <Button label="Cancel" severity="secondary" variant="text" @click="open = false" />
      <Button type="submit" form="conditions" label="Save" />
    </template>
  </Dialog>
</template>

<style scoped>
.form {
  display: grid;
  gap: var(--space-3);
}
fieldset {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2) var(--space-3);
  margin: 0;
  padding: var(--space-1) var(--space-3) var(--space-2);
  border: 1px solid var(--line);
  border-radius: 5px;
}
legend {
  font-weight: 650;
  padding: 0 var(--space-1);
}
label {
  display: grid;
  gap: var(--space-1);
  font-size: var(--text-small);
}
label.wide {
  width: 100%;
}
.again {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2);
  align-items: center;
}
label :deep(.p-inputnumber-input) {
  width: 6rem;
}

.seen {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2);
}
</style>
