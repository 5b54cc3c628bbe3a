<script setup lang="ts">
import Select from 'primevue/select'
import ToggleButton from 'primevue/togglebutton'
import { computed } from 'vue'
import type { Kind, Spot } from '@/api/client'
import { countKinds, KIND_HINTS, KIND_WORDS, STOPS, type SpotFilter } from '@/shared/lib/spots'
import KindSign from '@/shared/components/KindSign.vue'

const ANY = 0
const props = defineProps<{ spots: Spot[] }>()
const filter = defineModel<SpotFilter>({ required: true })
const kinds = computed(() => countKinds(props.spots))
const stops = [
  { label: 'at any aperture', value: ANY },
  ...STOPS.map((n) => ({ label: `at f/${n}`, value: n })),
]

function toggle(kind: Kind): void {
  const now = filter.value.kinds
  filter.value = {
    ...filter.value,
    kinds: now.includes(kind) ? now.filter((k) => k !== kind) : [...now, kind],
  }
}
</script>

<template>
  <div class="filters">
    <div class="kinds" role="group" aria-label="Kinds to show">
      <ToggleButton
        v-for="entry in kinds"
        :key="entry.kind"
        :title="KIND_HINTS[entry.kind]"
        :model-value="filter.kinds.includes(entry.kind)"
        size="small"
        :aria-label="`${KIND_WORDS[entry.kind]} ${entry.count}`"
        @update:model-value="toggle(entry.kind)"
      >
        <span class="kind"
          ><KindSign :kind="entry.kind" /> {{ KIND_WORDS[entry.kind] }} {{ entry.count }}</span
        >
      </ToggleButton>
    </div>
    <label class="shows">
      <span id="shows-label">Shows</span>
      <Select
        :model-value="filter.showsAt ?? ANY"
        :options="stops"
        option-label="label"
        option-value="value"
        size="small"
        aria-labelledby="shows-label"
        @update:model-value="filter = { ...filter, showsAt: $event === ANY ? null : $event }"
      />
    </label>
  </div>
</template>

<style scoped>
.filters {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2) var(--space-3);
  justify-content: space-between;
}
.kinds {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-1);
}
.kind {
  display: inline-flex;
  align-items: center;
  gap: var(--space-1);
}
.shows {
  display: flex;
  align-items: center;
  gap: var(--space-2);
}
</style>
