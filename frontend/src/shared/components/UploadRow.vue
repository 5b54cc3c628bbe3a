<script setup lang="ts">
import Button from 'primevue/button'
import ProgressBar from 'primevue/progressbar'
import type { Upload } from '@/shared/composables/useUploads'

defineProps<{ upload: Upload }>()
defineEmits<{ dismiss: [] }>()
</script>

<template>
  <li class="row" :class="upload.state" :role="upload.state === 'failed' ? 'alert' : undefined">
    <div class="head">
      <strong class="file">{{ upload.name }}</strong>
      <span v-if="upload.state === 'failed'">
        <Button
          label="Try again"
          size="small"
          variant="outlined"
          severity="secondary"
          @click="upload.retry()"
        />
        <Button
          :label="upload.frameId === null ? 'Dismiss' : 'Remove'"
          size="small"
          variant="text"
          severity="secondary"
          @click="upload.frameId === null ? $emit('dismiss') : upload.cancel()"
        />
      </span>
      <Button
        v-else
        label="Cancel"
        size="small"
        variant="text"
        severity="secondary"
        @click="upload.cancel()"
      />
    </div>
    <p v-if="upload.state === 'failed'" class="error">
      <i class="pi pi-exclamation-triangle" aria-hidden="true" /> {{ upload.error }}
    </p>
    <template v-else>
      <ProgressBar :value="Math.round(upload.progress * 100)" :show-value="false" :aria-label="upload.step" />
      <span class="soft">{{ upload.step }}</span>
    </template>
  </li>
</template>

<style scoped>
.row {
  padding: var(--space-2) var(--space-3);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 5px;
  display: grid;
  gap: var(--space-2);
}
.row.failed {
  background: var(--stop-wash);
  border-color: var(--stop);
}
.head span {
  display: flex;
  gap: var(--space-2);
}
.head {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: var(--space-3);
}
.file {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.error {
  color: var(--stop);
}
</style>
