<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import InputNumber from 'primevue/inputnumber'
import Select from 'primevue/select'
import { computed, ref, watch } from 'vue'
import type { StepUse, TrailItem } from '@/api/client'
import { queries } from '@/api/queries'
import ChoiceField from '@/shared/components/ChoiceField.vue'
import FailureNote from '@/shared/components/FailureNote.vue'
import { useAsk } from '@/shared/composables/useAsk'
import { useSettings } from '@/shared/composables/useSettings'
import { FLUID_WORDS, itemWords } from '@/shared/lib/kit'
import { STEP_WORDS } from '@/shared/lib/steps'

export interface Taken {
  kit_id: number
  amount: number
}
type Count = 'runs' | 'puffs' | 'dabs' | 'strokes' | 'swabs' | 'drops'

/** Puts right what a step used; the kit follows. */
const props = defineProps<{ item: TrailItem | null }>()
const emit = defineEmits<{ save: [entryId: number, use: StepUse, taken: Taken[]]; back: [] }>()
const { mm } = useSettings()
const use = ref<StepUse>({})
const taken = ref<Taken[]>([])
const { value: owned, error } = useAsk(() => (props.item?.step ? queries.kit() : null))
const kit = computed(() => owned.value ?? [])
const COUNTS: Partial<Record<string, Count[]>> = {
  auto_clean: ['runs'],
  air: ['puffs'],
  clean_lens: ['puffs'],
  lift: ['dabs'],
  brush: ['strokes'],
  dry_swab: ['swabs', 'strokes'],
  dry_followup: ['swabs', 'strokes'],
  wet_swab: ['swabs', 'drops', 'strokes'],
  corner_swab: ['swabs', 'drops', 'strokes'],
}
const COUNT_WORDS: Record<Count, string> = {
  runs: 'Runs',
  puffs: 'Puffs',
  dabs: 'Dabs',
  strokes: 'Strokes',
  swabs: 'Swabs',
  drops: 'Drops',
}
const wet = computed(() => ['wet_swab', 'corner_swab'].includes(props.item?.step?.step ?? ''))
const fluids = Object.entries(FLUID_WORDS).map(([value, label]) => ({ label, value }))
const YES_NO = [
  { label: 'Yes', value: true },
  { label: 'No', value: false },
]
const counts = computed(() => COUNTS[props.item?.step?.step ?? ''] ?? [])
const things = computed(() => kit.value.filter((k) => k.unit !== null && k.left !== null))
const more = computed(() =>
  things.value
    .filter((k) => !taken.value.some((t) => t.kit_id === k.id))
    .map((k) => ({ label: itemWords(k.owned.item, mm), value: k.id })),
)
const nameOf = (id: number): string => {
  const found = kit.value.find((k) => k.id === id)
  return found ? itemWords(found.owned.item, mm) : 'Removed from the kit'
}
const suffix = (id: number): string =>
  ({ piece: '', patch: ' patches', ml: ' ml' })[kit.value.find((k) => k.id === id)?.unit ?? 'piece']

watch(
  () => props.item,
  (item) => {
    if (!item?.step) return
    use.value = { ...item.step.use }
    taken.value = item.step.took.flatMap((t) =>
      t.kit_id == null ? [] : [{ kit_id: t.kit_id, amount: t.amount }],
    )
  },
  { immediate: true },
)

function save(): void {
  if (props.item)
    emit(
      'save',
      props.item.id,
      { ...use.value, assumed: null },
      taken.value.filter((t) => t.amount > 0),
    )
}
</script>

<template>
  <Dialog
    :visible="item !== null"
    modal
    :header="item?.step ? `What it used: ${STEP_WORDS[item.step.step]}` : ''"
    :style="{ width: '520px' }"
    @update:visible="emit('back')"
  >
    <form id="use-form" class="form" @submit.prevent="save">
      <FailureNote :error="error" />
      <div class="row">
        <label v-for="(c, i) in counts" :key="c"
          >{{ COUNT_WORDS[c]
          }}<InputNumber
            v-model="use[c]"
            :min="0"
            :max="1000"
            :pt="i === 0 ? { pcInputText: { root: { autofocus: true } } } : {}"
        /></label>
      </div>
      <div v-if="wet" class="row">
        <label
          >Fluid<Select
            v-model="use.fluid"
            :options="fluids"
            option-label="label"
            option-value="value"
            placeholder="Not recorded"
            show-clear
        /></label>
        <label
          >From drops to stroke<InputNumber v-model="use.waited_s" :min="0" :max="3600" suffix=" s"
        /></label>
        <ChoiceField v-model="use.tip_bent" label="Tip bent" :options="YES_NO" open />
      </div>
      <fieldset>
        <legend>Taken from the kit</legend>
        <p v-if="!taken.length" class="soft">Nothing.</p>
        <label v-for="t in taken" :key="t.kit_id" class="thing"
          ><span>{{ nameOf(t.kit_id) }}</span
          ><InputNumber
            v-model="t.amount"
            :min="0"
            :max="10000"
            :max-fraction-digits="2"
            :suffix="suffix(t.kit_id)"
            :aria-label="`Amount of ${nameOf(t.kit_id)}`"
        /></label>
        <Select
          v-if="more.length"
          :model-value="null"
          :options="more"
          option-label="label"
          option-value="value"
          placeholder="Add another item"
          aria-label="Add an item of the kit"
          @update:model-value="taken.push({ kit_id: $event, amount: 1 })"
        />
      </fieldset>
      <p class="soft">What is taken out here goes back to the count. A swab that was used stays used.</p>
    </form>
    <template #footer>
      <Button label="Cancel" severity="secondary" variant="text" @click="emit('back')" />
      <Button type="submit" form="use-form" label="Save" />
    </template>
  </Dialog>
</template>

<style scoped>
.form {
  display: grid;
  gap: var(--space-3);
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-3);
}
label {
  display: grid;
  gap: var(--space-1);
}
.thing {
  grid-template-columns: 1fr auto;
  align-items: center;
}
fieldset {
  display: grid;
  gap: var(--space-2);
  margin: 0;
  padding: var(--space-2) var(--space-3) var(--space-3);
  border: 1px solid var(--line);
  border-radius: 5px;
}
legend {
  font-weight: 650;
  padding: 0 var(--space-1);
}
label :deep(.p-inputnumber-input) {
  width: 7rem;
}
</style>
