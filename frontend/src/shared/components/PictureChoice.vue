<script setup lang="ts" generic="T extends string | number">
import { computed, useId } from 'vue'

/** One of a few, or several of them, chosen by their drawings. */
const props = defineProps<{
  label: string
  options: readonly { label: string; value: T; hint?: string }[]
  several?: boolean
}>()
const chosen = defineModel<T | T[] | null>()
const name = useId()
const isOn = (value: T): boolean =>
  Array.isArray(chosen.value) ? chosen.value.includes(value) : chosen.value === value
const order = computed(() => props.options.map((o) => o.value))

function pick(value: T): void {
  if (!props.several) {
    chosen.value = value
    return
  }
  const now = Array.isArray(chosen.value) ? chosen.value : []
  const next = now.includes(value) ? now.filter((v) => v !== value) : [...now, value]
  chosen.value = next.sort((a, b) => order.value.indexOf(a) - order.value.indexOf(b))
}
</script>

<template>
  <fieldset>
    <legend>{{ label }}</legend>
    <div class="tiles">
      <label v-for="o in options" :key="o.value" class="tile" :class="{ on: isOn(o.value) }">
        <input
          class="hidden-label"
          :type="several ? 'checkbox' : 'radio'"
          :name="name"
          :value="o.value"
          :checked="isOn(o.value)"
          @change="pick(o.value)"
        />
        <slot :value="o.value" />
        <span>{{ o.label }}</span>
        <span v-if="o.hint" class="soft">{{ o.hint }}</span>
      </label>
    </div>
  </fieldset>
</template>

<style scoped>
fieldset {
  min-width: 0;
  margin: 0;
  padding: 0;
  border: 0;
}
legend {
  padding: 0 0 var(--space-1);
  font-weight: 600;
}
.tiles {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2);
}
.tile {
  position: relative;
  display: grid;
  gap: var(--space-1);
  justify-items: center;
  align-content: end;
  min-width: 4.2rem;
  padding: var(--space-1) var(--space-2);
  font-size: var(--text-small);
  text-align: center;
  border: 2px solid var(--line);
  border-radius: 5px;
  cursor: pointer;
}
.tile.on {
  font-weight: 600;
  background: var(--accent-wash);
  border-color: var(--accent);
}
.tile:focus-within {
  outline: 2px solid var(--accent);
  outline-offset: 2px;
}
</style>
