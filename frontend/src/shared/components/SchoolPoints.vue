<script setup lang="ts">
import Select from 'primevue/select'
import { computed } from 'vue'
import type { Schools } from '@/api/client'
import { ORDERS, POINTS } from '@/shared/lib/schools'

/** One row a point: what is chosen, and the reasons for each choice one click away.
 *
 * `asUsual`: offers on each point to follow what is chosen for all visits. */
const props = defineProps<{ schools: Schools; asUsual?: boolean }>()
const emit = defineEmits<{ choose: [change: Partial<Schools>] }>()
const AS_USUAL = 'as-usual'
/** A point left open is a choice, too; an empty value would show as none chosen. */
const OPEN = 'open'
const valueOf = (value: string | boolean): string => (value === '' ? OPEN : String(value))
const ORDER = 'contact_order'

interface Row {
  key: string
  question: string
  chosen: string
  choices: { value: string; label: string; reason: string }[]
  recommended: string
  choose: (value: string) => Partial<Schools>
}

const labelOf = (row: Row, value: string): string => row.choices.find((c) => c.value === value)?.label ?? ''
const same = (a: unknown, b: unknown): boolean => JSON.stringify(a ?? null) === JSON.stringify(b ?? null)

const order = computed<Row>(() => {
  const at = ORDERS.findIndex((o) => same(props.schools.contact_order, o.order))
  return {
    key: ORDER,
    question: 'Order of tools',
    chosen: String(Math.max(at, 0)),
    choices: ORDERS.map((o, i) => ({
      value: String(i),
      label: props.asUsual && o.order === null ? 'As for all visits' : o.label,
      reason: o.reason,
    })),
    recommended: props.asUsual ? '' : '0',
    choose: (value) => ({ contact_order: ORDERS[Number(value)]?.order ?? null }),
  }
})
const points = computed<Row[]>(() =>
  POINTS.map((p) => {
    const value = props.schools[p.key] ?? (props.asUsual ? AS_USUAL : p.usual)
    const sides = p.sides.filter((s) => !(props.asUsual && s.value === ''))
    return {
      key: p.key,
      question: p.question,
      chosen: valueOf(value),
      choices: [
        ...(props.asUsual ? [{ value: AS_USUAL, label: 'As for all visits', reason: '' }] : []),
        ...sides.map((s) => ({
          value: valueOf(s.value),
          label: s.label,
          reason: s.reason,
        })),
      ],
      recommended: props.asUsual ? '' : valueOf(p.usual),
      choose: (picked) => {
        const side = sides.find((s) => valueOf(s.value) === picked)
        return { [p.key]: side && side.value !== '' ? side.value : null }
      },
    }
  }),
)
const rows = computed(() => [order.value, ...points.value])
</script>

<template>
  <ul class="points">
    <li v-for="row in rows" :key="row.key">
      <label :for="`point-${row.key}`">{{ row.question }}</label>
      <Select
        :model-value="row.chosen"
        :label-id="`point-${row.key}`"
        :options="row.choices"
        option-label="label"
        option-value="value"
        size="small"
        :aria-label="row.question"
        @update:model-value="emit('choose', row.choose($event))"
      />
      <span v-if="row.recommended && row.chosen !== row.recommended" class="other soft"
        >Recommended: {{ labelOf(row, row.recommended) }}</span
      >
      <details>
        <summary>Why</summary>
        <p v-if="row.recommended">Recommended: {{ labelOf(row, row.recommended) }}.</p>
        <dl>
          <template v-for="c in row.choices.filter((x) => x.reason)" :key="c.value"
            ><dt>{{ c.label }}</dt>
            <dd>{{ c.reason }}</dd></template
          >
        </dl>
      </details>
    </li>
  </ul>
</template>

<style scoped>
.points {
  display: grid;
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(180px, 330px);
  gap: 0 var(--space-3);
  align-items: center;
  padding: var(--space-2) 0;
  border-top: 1px solid var(--line);
}
li:first-child {
  border-top: 0;
}
label {
  font-weight: 600;
}
.other {
  grid-column: 2;
  font-size: var(--text-small);
}
details {
  grid-column: 1 / -1;
  font-size: var(--text-small);
}
dl {
  margin: var(--space-1) 0 0;
}
dt {
  font-weight: 600;
}
dd {
  margin: 0 0 var(--space-1);
}
@media (max-width: 600px) {
  li {
    grid-template-columns: 1fr;
  }
}
</style>
