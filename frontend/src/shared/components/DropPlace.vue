<script setup lang="ts">
import Button from 'primevue/button'
import { ref } from 'vue'

/** The place to choose files at; dropped they may be anywhere on the page. */
const emit = defineEmits<{ files: [files: File[]] }>()
const chooser = ref<HTMLInputElement | null>(null)

function chosen(event: Event): void {
  const input = event.target as HTMLInputElement
  const files = [...(input.files ?? [])]
  input.value = ''
  if (files.length) emit('files', files)
}
</script>

<template>
  <div class="drop works">
    <p class="lead">Drop test frames anywhere here</p>
    <Button label="Choose a frame" icon="pi pi-folder-open" @click="chooser?.click()" />
    <p class="soft">JPEG, RAW, DNG, TIFF, PNG, HEIF. Stays on this machine.</p>
    <input
      ref="chooser"
      class="hidden-label"
      type="file"
      multiple
      tabindex="-1"
      aria-label="Test frames"
      @change="chosen"
    />
  </div>
</template>

<style scoped>
.drop {
  display: grid;
  place-items: center;
  align-content: center;
  gap: var(--space-3);
  min-height: 250px;
  padding: var(--space-4);
  text-align: center;
  background: var(--panel);
  border: 2px dashed var(--ink-soft);
  border-radius: 6px;
}
.lead {
  font-size: var(--text-title);
  font-weight: 600;
}
</style>
