<script setup lang="ts">
import InputText from 'primevue/inputtext'
import Select from 'primevue/select'
import type { FramesWanted } from '@/api/queries'

/** Which of the frames are listed, and in what order. */
const wanted = defineModel<FramesWanted>({ required: true })
const ONLY = [
  { label: 'All frames', value: 'all' },
  { label: 'On no visit', value: 'loose' },
  { label: 'Not fit to judge by', value: 'unfit' },
] as const
const ORDERS = [
  { label: 'Newest first', value: 'newest' },
  { label: 'Oldest first', value: 'oldest' },
  { label: 'Last taken first', value: 'taken' },
  { label: 'Most spots first', value: 'spots' },
  { label: 'By name', value: 'name' },
] as const
const change = (part: Partial<FramesWanted>): void => {
  wanted.value = { ...wanted.value, ...part }
}
</script>

<template>
  <div class="search" role="search" aria-label="Frames">
    <InputText
      :model-value="wanted.words"
      placeholder="Find by name or camera"
      aria-label="Find by name or camera"
      size="small"
      @update:model-value="change({ words: $event ?? '' })"
    />
    <Select
      :model-value="wanted.only"
      :options="[...ONLY]"
      option-label="label"
      option-value="value"
      size="small"
      aria-label="Frames listed"
      @update:model-value="change({ only: $event })"
    />
    <Select
      :model-value="wanted.order"
      :options="[...ORDERS]"
      option-label="label"
      option-value="value"
      size="small"
      aria-label="Order"
      @update:model-value="change({ order: $event })"
    />
  </div>
</template>

<style scoped>
.search {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2);
}
.search > :first-child {
  flex: 1 1 200px;
}
</style>
