<script setup lang="ts">
import Button from 'primevue/button'
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import UploadRow from '@/shared/components/UploadRow.vue'
import { placeOf, useIntake } from '@/shared/composables/useIntake'
import { count } from '@/shared/lib/format'

const { uploads, landed, dismiss, seen } = useIntake()
const queueWords = computed(() => {
  const waiting = uploads.value.filter((u) => u.state === 'waiting').length
  const words = count(uploads.value.length, 'frame') + ' coming in'
  return waiting ? `${words}, ${waiting} waiting to be sent` : words
})
</script>

<template>
  <section v-if="uploads.length || landed.length" class="tray" aria-label="Frames coming in">
    <h2 v-if="uploads.length > 2">{{ queueWords }}</h2>
    <ul aria-live="polite">
      <UploadRow v-for="u in uploads" :key="u.key" :upload="u" @dismiss="dismiss(u.key)" />
      <li v-for="l in landed" :key="l.frameId" class="landed">
        <span>
          <strong>{{ l.name }}</strong>
          {{ l.camera ? `is on the visit of ${l.camera}.` : 'is measured. Which camera is it?' }}
        </span>
        <RouterLink :to="placeOf(l)" @click="seen(l.frameId)">{{
          l.camera ? 'Open' : 'Say which'
        }}</RouterLink>
        <Button
          icon="pi pi-times"
          size="small"
          severity="secondary"
          variant="text"
          :aria-label="`Dismiss ${l.name}`"
          @click="seen(l.frameId)"
        />
      </li>
    </ul>
  </section>
</template>

<style scoped>
.tray {
  position: fixed;
  right: var(--space-3);
  bottom: var(--space-3);
  z-index: 15;
  width: min(380px, calc(100vw - 2 * var(--space-3)));
  max-height: 45vh;
  overflow: auto;
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 6px;
  box-shadow: 0 3px 14px color-mix(in srgb, var(--shade) 25%, transparent);
}
h2 {
  position: sticky;
  top: 0;
  z-index: 1;
  padding: var(--space-2) var(--space-3);
  font-size: var(--text-body, 1rem);
  background: var(--panel);
  border-bottom: 1px solid var(--line);
}
ul {
  display: grid;
  margin: 0;
  padding: 0;
  list-style: none;
}
.landed {
  display: grid;
  grid-template-columns: 1fr auto auto;
  gap: var(--space-2);
  align-items: center;
  padding: var(--space-2) var(--space-3);
}
.landed strong {
  overflow-wrap: anywhere;
}
</style>
