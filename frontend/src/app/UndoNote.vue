<script setup lang="ts">
import Button from 'primevue/button'
import { useUndo } from '@/shared/composables/useUndo'

const { offered, error, undo, dismiss } = useUndo()
</script>

<template>
  <p v-if="offered" class="undo" role="status">
    <span>{{ error || offered.words }}</span>
    <Button v-if="!error" label="Undo" size="small" severity="secondary" variant="outlined" @click="undo" />
    <Button
      icon="pi pi-times"
      size="small"
      severity="secondary"
      variant="text"
      aria-label="Dismiss"
      @click="dismiss"
    />
  </p>
</template>

<style scoped>
.undo {
  position: fixed;
  left: 50%;
  bottom: var(--space-3);
  z-index: 24;
  display: flex;
  gap: var(--space-2);
  align-items: center;
  max-width: calc(100vw - 2 * var(--space-3));
  padding: var(--space-2) var(--space-3);
  background: var(--panel);
  border: 1px solid var(--ink-soft);
  border-radius: 5px;
  transform: translateX(-50%);
}
</style>
