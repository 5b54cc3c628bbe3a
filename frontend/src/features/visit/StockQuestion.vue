<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import type { StockAsked } from './useVisit'

/** The kit counts fewer than a step took: was there more, or shall it not be logged yet? */
defineProps<{ asked: StockAsked | null }>()
</script>

<template>
  <Dialog
    :visible="asked !== null"
    modal
    header="More than the kit counts"
    :style="{ width: '520px' }"
    @update:visible="asked?.answer(false)"
  >
    <p>{{ asked?.text }}</p>
    <template #footer>
      <Button label="Do not log it yet" severity="secondary" variant="text" @click="asked?.answer(false)" />
      <Button label="There was more: log it" autofocus @click="asked?.answer(true)" />
    </template>
  </Dialog>
</template>
