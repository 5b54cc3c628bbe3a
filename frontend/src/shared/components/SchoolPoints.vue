<script setup lang="ts">
import RadioButton from 'primevue/radiobutton'
import type { Schools } from '@/api/client'
import { ORDERS, POINTS } from '@/shared/lib/schools'

/** `asUsual`: offers on each point to follow what is chosen for all visits. */
const props = defineProps<{ schools: Schools; asUsual?: boolean }>()
const emit = defineEmits<{ choose: [change: Partial<Schools>] }>()
const AS_USUAL = 'as-usual'

const same = (a: Schools['contact_order'], b: Schools['contact_order']): boolean =>
  JSON.stringify(a ?? null) === JSON.stringify(b ?? null)
const chosen = (key: (typeof POINTS)[number]['key'], usual: string | boolean): string | boolean =>
  props.schools[key] ?? (props.asUsual ? AS_USUAL : usual)
</script>

<template>
  <fieldset>
    <legend>In which order are tools that touch tried?</legend>
    <label v-for="o in ORDERS" :key="o.label"
      ><RadioButton
        :model-value="true"
        :value="same(schools.contact_order, o.order)"
        name="order"
        @update:model-value="emit('choose', { contact_order: o.order })"
      /><span
        ><strong>{{ asUsual && o.order === null ? 'As for all visits' : o.label }}</strong
        ><em v-if="o.order === null && !asUsual">recommended</em
        ><template v-if="!(asUsual && o.order === null)"><br />{{ o.reason }}</template></span
      ></label
    >
  </fieldset>
  <fieldset v-for="p in POINTS" :key="p.key">
    <legend>{{ p.question }}</legend>
    <label v-if="asUsual"
      ><RadioButton
        :model-value="chosen(p.key, p.usual)"
        :value="AS_USUAL"
        :name="p.key"
        @update:model-value="emit('choose', { [p.key]: null })"
      /><span><strong>As for all visits</strong></span></label
    >
    <template v-for="s in p.sides" :key="String(s.value)">
      <label v-if="!(asUsual && s.value === '')"
        ><RadioButton
          :model-value="chosen(p.key, p.usual)"
          :value="s.value"
          :name="p.key"
          @update:model-value="emit('choose', { [p.key]: s.value === '' ? null : s.value })"
        /><span
          ><strong>{{ s.label }}</strong
          ><em v-if="s.value === p.usual && !asUsual">recommended</em><br />{{ s.reason }}</span
        ></label
      >
    </template>
  </fieldset>
</template>

<style scoped>
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
label {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 0.7rem;
  align-items: start;
}
em {
  margin-left: 0.5rem;
  padding: 0 0.4rem;
  font-size: var(--text-small);
  font-style: normal;
  color: var(--ink-soft);
  border: 1px solid var(--line);
  border-radius: 3px;
}
</style>
