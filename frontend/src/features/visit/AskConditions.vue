<script setup lang="ts">
import { CHARGES, chargeOf, chargeWord } from './battery'
import Button from 'primevue/button'
import InputNumber from 'primevue/inputnumber'
import { computed, ref, watch } from 'vue'
import type { Advice, Conditions, Visit } from '@/api/client'
import ChoiceField from '@/shared/components/ChoiceField.vue'
import MeasureInput from '@/shared/components/MeasureInput.vue'
import { useSettings } from '@/shared/composables/useSettings'

/** What the next step needs to be told, two questions at a time; last time's answers are offered. */
type Question = NonNullable<Advice['asks']>[number]
const props = defineProps<{ visit: Visit; busy: boolean }>()
const emit = defineEmits<{ tell: [conditions: Conditions]; all: [] }>()
const AT_ONCE = 2
const { celsius } = useSettings()

const yesNo = [
  { label: 'Yes', value: true },
  { label: 'No', value: false },
]
const CHOICES = {
  moving_air: {
    label: 'Air',
    options: [
      { label: 'Still', value: false },
      { label: 'Moving', value: true },
    ],
  },
  surface: {
    label: 'Table',
    options: [
      { label: 'Bare', value: 'bare' },
      { label: 'Cloth', value: 'fabric' },
    ],
  },
  room_clean: { label: 'Wiped down', options: yesNo },
  battery_percent: { label: 'Battery', options: CHARGES },
  mains: { label: 'Mains adapter', options: yesNo },
  mirror_up: { label: 'Mirror raised', options: yesNo },
  power: {
    label: 'Camera switched',
    options: [
      { label: 'Off', value: 'off' },
      { label: 'On', value: 'on' },
      { label: 'Battery out', value: 'battery_out' },
    ],
  },
  experience: {
    label: 'Your experience',
    options: [
      { label: 'Beginner', value: 'novice' },
      { label: 'Practised', value: 'practised' },
      { label: 'Expert', value: 'expert' },
    ],
  },
} as const
const DEGREES = { temperature_c: 'Room temperature', camera_c: 'Camera temperature' } as const
const PERCENT = { humidity_percent: 'Humidity' } as const

const draft = ref<Conditions>({ ...props.visit.conditions })
watch(
  () => props.visit.conditions_version,
  () => {
    draft.value = { ...props.visit.conditions }
  },
)
/** Questions not answered yet come first; one answered otherwise than the step needs can be changed. */
const asked = computed<Question[]>(() => {
  const all = props.visit.advice.asks ?? []
  const open = all.filter((q) => props.visit.conditions[q] == null)
  return (open.length ? open : all).slice(0, AT_ONCE)
})
const answered = computed(() => asked.value.every((q) => draft.value[q] != null))
const offered = computed(() =>
  asked.value.flatMap((q) => {
    const value = props.visit.offered?.[q]
    return value == null || draft.value[q] != null ? [] : [{ q, words: wordsOf(q, value) }]
  }),
)

function wordsOf(q: Question, value: string | number | boolean): string {
  if (q in DEGREES) return celsius(Number(value))
  if (q in PERCENT) return `${value} %`
  if (q === 'battery_percent') return `battery ${chargeWord(Number(value))}`
  const choice = CHOICES[q as keyof typeof CHOICES]
  const found = choice.options.find((o) => o.value === value)
  return `${choice.label.toLowerCase()} ${found?.label.toLowerCase() ?? ''}`
}

const numberOf = (q: Question): number | null => (draft.value[q] as number | null | undefined) ?? null

function asLastTime(): void {
  const known = Object.fromEntries(offered.value.map(({ q }) => [q, props.visit.offered?.[q]]))
  draft.value = { ...draft.value, ...known }
}

function set(q: Question, value: unknown): void {
  draft.value = { ...draft.value, [q]: value }
}
</script>

<template>
  <form class="ask" aria-label="Before the next step" @submit.prevent="emit('tell', draft)">
    <h2>Tell first</h2>
    <div class="fields">
      <template v-for="q in asked" :key="q">
        <label v-if="q in DEGREES"
          >{{ DEGREES[q as keyof typeof DEGREES]
          }}<MeasureInput
            of="temperature"
            :min="-40"
            :max="60"
            :model-value="numberOf(q)"
            @update:model-value="set(q, $event)"
        /></label>
        <label v-else-if="q in PERCENT"
          >{{ PERCENT[q as keyof typeof PERCENT]
          }}<InputNumber
            :model-value="numberOf(q)"
            suffix=" %"
            :min="0"
            :max="100"
            @update:model-value="set(q, $event)"
        /></label>
        <ChoiceField
          v-else
          :model-value="q === 'battery_percent' ? chargeOf(draft[q]) : draft[q]"
          :label="CHOICES[q as keyof typeof CHOICES].label"
          :options="[...CHOICES[q as keyof typeof CHOICES].options]"
          open
          @update:model-value="set(q, $event)"
        />
      </template>
    </div>
    <div class="do">
      <Button
        v-if="offered.length"
        :label="`As last time: ${offered.map((o) => o.words).join(', ')}`"
        size="small"
        severity="secondary"
        variant="outlined"
        @click="asLastTime"
      />
      <Button type="submit" label="Save" size="small" :disabled="busy || !answered" />
      <Button label="All conditions" size="small" severity="secondary" variant="text" @click="emit('all')" />
    </div>
  </form>
</template>

<style scoped>
.ask {
  display: grid;
  gap: var(--space-2);
  padding: var(--space-2) var(--space-3);
  background: var(--accent-wash);
  border-radius: 5px;
}
.fields,
.do {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2) var(--space-3);
  align-items: end;
}
label {
  display: grid;
  gap: var(--space-1);
}
label :deep(.p-inputnumber-input) {
  width: 7rem;
}
</style>
